#include "app/look/look.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QImage>
#include <QLocale>
#include <QPainter>
#include <QPainterPath>
#include <QPalette>
#include <QPixmap>
#include <QPixmapCache>
#include <QStyleFactory>
#include <QThread>
#include <QWidget>
#include <algorithm>

#include "output/picture.h"

/// Resources of a static library are only there once they are asked for, from the global namespace.
static void takeResources() {
  Q_INIT_RESOURCE(look);
}

namespace app::look {
namespace {

const Tokens kDay = {QColor(0xF5F1E6), QColor(0xFBF9F3), QColor(0x1F2D3A), QColor(0x665D51),
    QColor(0xA8402A), QColor(0x1C6A78), QColor(0xA9760F), QColor(0x857E6A), QColor(0xCFC7B2),
    QColor(0xF3E1D8)};
const Tokens kNight = {QColor(0x1A2129), QColor(0x232C35), QColor(0xE9E3D3), QColor(0xB5A994),
    QColor(0xE88B6C), QColor(0x62B6CB), QColor(0xD9AE52), QColor(0x7D8588), QColor(0x37424B),
    QColor(0x3A2F2D)};

bool night = false;

/// The first of the families that this machine has.
QString family(std::initializer_list<const char*> wanted) {
  const QStringList have = QFontDatabase::families();
  for (const char* name : wanted)
    for (const QString& family : have)  // "P052 [urw]" where several foundries have one.
      if (family == QLatin1String(name) ||
          family.startsWith(QLatin1String(name) + QStringLiteral(" [")))
        return family;
  return QApplication::font().family();
}

/// 13 px at 96 dpi; more where the desktop's own font is larger than usual, as far as the measures
/// of the interface allow. Desktops that scale all text do so by the dots of an inch.
double bodyPoints() {
  constexpr double kUsual = 11, kMost = 1.25;
  static const double desktop = QFontDatabase::systemFont(QFontDatabase::GeneralFont).pointSizeF();
  return 9.75 * std::clamp(desktop / kUsual, 1.0, kMost);
}

QString styleSheet(const Tokens& t) {
  QFile file(QStringLiteral(":/look/sheet.qss"));
  if (!file.open(QIODevice::ReadOnly)) qFatal("the style sheet is missing");
  QString css = QString::fromUtf8(file.readAll());
  const std::pair<const char*, QColor> names[] = {{"@paper", t.paper}, {"@sheet", t.sheet},
      {"@ink", t.ink}, {"@soft", t.soft}, {"@verdigris", t.verdigris}, {"@edge", t.edge},
      {"@rule", t.rule}, {"@chosen", t.chosen}, {"@ochre", t.ochre}};
  for (const auto& [name, colour] : names) css.replace(QLatin1String(name), colour.name());
  return css;
}

}  // namespace

const Tokens& tokens() {
  return night ? kNight : kDay;
}
bool isNight() {
  return night;
}

void apply(QApplication& application, bool toNight) {
  takeResources();
  night = toNight;
  const Tokens& t = tokens();
  QApplication::setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
  QPalette palette;
  palette.setColor(QPalette::Window, t.paper);
  palette.setColor(QPalette::Base, t.sheet);
  palette.setColor(QPalette::AlternateBase, t.paper);
  palette.setColor(QPalette::Button, t.sheet);
  palette.setColor(QPalette::WindowText, t.ink);
  palette.setColor(QPalette::Text, t.ink);
  palette.setColor(QPalette::ButtonText, t.ink);
  palette.setColor(QPalette::PlaceholderText, t.soft);
  palette.setColor(QPalette::Highlight, t.ink);
  palette.setColor(QPalette::HighlightedText, t.sheet);
  palette.setColor(QPalette::ToolTipBase, t.sheet);
  palette.setColor(QPalette::ToolTipText, t.ink);
  QApplication::setPalette(palette);
  QApplication::setFont(font(Type::Body));
  application.setStyleSheet(styleSheet(t));
}

bool isWide(const QWidget& window) {
  return window.width() >= 1800 && window.height() >= 900;
}

QFont font(Type type) {
  static const QString sans = family({"Lato", "DejaVu Sans"});
  static const QString serif = family({"P052", "DejaVu Serif"});
  QFont f(type == Type::Title ? serif : sans);
  switch (type) {
    case Type::Caption:
      f.setPointSizeF(bodyPoints() * 0.85);
      break;
    case Type::Body:
      f.setPointSizeF(bodyPoints());
      break;
    case Type::Head:
      f.setPointSizeF(bodyPoints() * 1.15);
      f.setWeight(QFont::DemiBold);
      break;
    case Type::Title:
      f.setPointSizeF(bodyPoints() * 1.54);
      break;
    case Type::Figure:
      f.setPointSizeF(bodyPoints() * 1.85);
      break;
  }
  return f;
}

QFont mapFont() {
  QFont f = font(Type::Title);
  f.setPointSizeF(bodyPoints());
  return f;
}

QFont capitals() {
  QFont f = font(Type::Caption);
  f.setCapitalization(QFont::AllUppercase);
  f.setLetterSpacing(QFont::PercentageSpacing, 106);
  f.setWeight(QFont::DemiBold);
  return f;
}

const QImage& hatch() {
  static const QImage image = [] {
    QImage tile(8, 8, QImage::Format_RGB32);
    for (int y = 0; y < 8; ++y)
      for (int x = 0; x < 8; ++x) tile.setPixel(x, y, acre::hatchAt(x, y));
    return tile;
  }();
  return image;
}

namespace {

void drawHalo(QPainter& painter, QPointF baseline, const QString& text) {
  QPainterPath path;
  path.addText(baseline, painter.font(), text);
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.strokePath(path, QPen(tokens().sheet, 4, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  painter.fillPath(path, tokens().ink);
  painter.restore();
}

}  // namespace

void fillThin(QPainter& p, const QRect& area, const QColor& colour) {
  constexpr int kRows = 64;  // Of the device; Qt's painter keeps up to 95 to itself.
  const int tall = std::max(1, static_cast<int>(kRows / p.device()->devicePixelRatioF()));
  for (int y = area.top(); y <= area.bottom(); y += tall)
    p.fillRect(area.left(), y, area.width(), std::min(tall, area.bottom() + 1 - y), colour);
}

void drawHaloText(QPainter& painter, QPointF baseline, const QString& text) {
  // Outlines of letters take a millisecond a word: each is drawn once and kept. Pixmaps belong to
  // the interface's thread, and to what is neither turned nor scaled.
  if (QThread::currentThread() != qApp->thread() ||
      painter.transform().type() > QTransform::TxTranslate)
    return drawHalo(painter, baseline, text);
  constexpr int kMargin = 6;
  const double ratio = painter.device()->devicePixelRatioF();
  const QString key = QStringLiteral("halo/%1/%2/%3/%4/%5")
                          .arg(text, painter.font().key(), tokens().sheet.name(),
                              tokens().ink.name(), QString::number(ratio));
  const QFontMetricsF metrics(painter.font());
  const double rise = std::ceil(metrics.ascent()) + kMargin;
  QPixmap kept;
  if (!QPixmapCache::find(key, &kept)) {
    const QSizeF size(std::ceil(metrics.horizontalAdvance(text)) + 2 * kMargin,
        rise + std::ceil(metrics.descent()) + kMargin);
    kept = QPixmap((size * ratio).toSize());
    kept.setDevicePixelRatio(ratio);
    kept.fill(Qt::transparent);
    QPainter drawn(&kept);
    drawn.setFont(painter.font());
    drawHalo(drawn, {kMargin, rise}, text);
    drawn.end();
    QPixmapCache::insert(key, kept);
  }
  painter.drawPixmap(
      QPointF(std::round(baseline.x()) - kMargin, std::round(baseline.y()) - rise), kept);
}

QString wholeNumber(qint64 value) {
  QString text = QLocale(QLocale::English).toString(value);
  return text.replace(QLatin1Char('-'), QChar(0x2212));
}

QString number(double value) {
  QString text = QString::number(value, 'g', QLocale::FloatingPointShortest);
  if (text.contains(QLatin1Char('e')) && std::abs(value) < 1e15 && std::abs(value) >= 1)
    text = QString::number(value, 'f', 0);
  return text.replace(QLatin1Char('-'), QChar(0x2212));
}

QString figure(double value) {
  const double a = std::abs(value);
  const double parts = a >= 100 ? 1 : a >= 10 ? 10 : a >= 1 ? 100 : 1000;
  return number(std::round(value * parts) / parts);
}

QString percent(double share) {
  return QString::number(share * 100, 'f', 1) + QStringLiteral(" %");
}

}  // namespace app::look
