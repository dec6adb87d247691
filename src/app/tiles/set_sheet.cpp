#include "app/tiles/set_sheet.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>
#include <set>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kGap = 5, kWords = 13, kBar = 3;

QString sidesOf(const acre::TileCases& cases, int number) {
  static const QStringList kAround = {QObject::tr("north"), QObject::tr("north-east"),
      QObject::tr("east"), QObject::tr("south-east"), QObject::tr("south"),
      QObject::tr("south-west"), QObject::tr("west"), QObject::tr("north-west")};
  static const QStringList kCorners = {QObject::tr("lower left"), QObject::tr("lower right"),
      QObject::tr("upper right"), QObject::tr("upper left")};
  QStringList inside;
  const uint8_t mask = cases.maskOf(number);
  for (int k = 0; k < cases.bits(); ++k)
    if (mask >> k & 1)
      inside << (cases.method() == acre::TileMethod::Corners ? kCorners[k]
                 : cases.method() == acre::TileMethod::Sides ? kAround[2 * k]
                                                             : kAround[k]);
  return inside.isEmpty() ? QObject::tr("nothing beside it") : inside.join(QStringLiteral(", "));
}

}  // namespace

QImage imageOf(const std::vector<uint32_t>& pixels, int side) {
  QImage out(side, side, QImage::Format_ARGB32);
  for (int y = 0; y < side; ++y)
    std::copy_n(pixels.data() + static_cast<ptrdiff_t>(y) * side, side,
        reinterpret_cast<uint32_t*>(out.scanLine(y)));
  return out;
}

QImage imageOf(const acre::RgbaPicture& picture) {
  QImage out(picture.width, picture.height, QImage::Format_ARGB32);
  for (int y = 0; y < picture.height; ++y)
    std::copy_n(picture.pixels.data() + static_cast<ptrdiff_t>(y) * picture.width, picture.width,
        reinterpret_cast<uint32_t*>(out.scanLine(y)));
  return out;
}

SetSheet::SetSheet(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("Cases of the set"));
}

void SetSheet::show(std::shared_ptr<const SheetOfSet> of) {
  of_ = std::move(of);
  if (of_) choose(std::min(chosen_, count() - 1));
  setFixedHeight(heightForWidth(width()));
  update();
}

int SetSheet::count() const {
  return of_ ? acre::TileCases::countOf(of_->set.method) : 0;
}

int SetSheet::side(int width) const {
  return std::clamp((width - kGap) / kAcross - kGap, 16, 48);
}

int SetSheet::heightForWidth(int width) const {
  const int rows = (count() + kAcross - 1) / kAcross;
  return kGap + rows * (side(width) + kWords + kBar + kGap);
}

QSize SetSheet::sizeHint() const {
  return {320, heightForWidth(320)};
}

QRect SetSheet::boxOf(int number) const {
  const int side = this->side(width());
  return {kGap + number % kAcross * (side + kGap),
      kGap + kWords + number / kAcross * (side + kWords + kBar + kGap), side, side};
}

QImage SetSheet::pictureOf(int number) const {
  const acre::TileCases cases(of_->set.method, of_->set.turns);
  const auto drawing = static_cast<size_t>(cases.drawingOf(number));
  if (drawing >= of_->art.pictures.size() || of_->art.pictures[drawing].empty()) return {};
  return imageOf(
      of_->art.laid(static_cast<int>(drawing), cases.orientationOf(number)), of_->art.size);
}

QString SetSheet::wordsOf(int number) const {
  const acre::TileCases cases(of_->set.method, of_->set.turns);
  QString words = tr("Case %1: %2").arg(number).arg(sidesOf(cases, number));
  if (!of_->counts.empty())
    words += tr("\n%1 in view").arg(look::wholeNumber(of_->counts[static_cast<size_t>(number)]));
  const auto& missing = of_->report.missing;
  const int drawn = cases.caseOfDrawing(cases.drawingOf(number));
  if (std::find(missing.begin(), missing.end(), drawn) != missing.end())
    words += tr("\nno picture");
  else if (drawn != number)
    words += tr("\nthe picture of case %1, turned").arg(drawn);
  for (const acre::TileOffender& one : of_->report.offenders)
    if (one.number == number)
      words += tr("\n%1 of its %2 rims do not meet").arg(one.faults).arg(one.rims);
  return words;
}

void SetSheet::paintEvent(QPaintEvent*) {
  if (!of_) return;
  const look::Tokens& t = look::tokens();
  QPainter p(this);
  p.setFont(look::font(look::Type::Caption));
  const acre::TileCases cases(of_->set.method, of_->set.turns);
  int64_t most = 1;
  for (const int64_t n : of_->counts) most = std::max(most, n);
  std::set<int> faulty;
  for (const acre::TileOffender& one : of_->report.offenders) faulty.insert(one.number);
  for (int n = 0; n < count(); ++n) {
    const QRect box = boxOf(n);
    const bool empty = of_->set.method == acre::TileMethod::Corners && n == 0;
    p.setPen(t.soft);
    p.drawText(box.left(), box.top() - 3, QString::number(n));
    p.fillRect(box, t.sheet);
    if (const QImage image = pictureOf(n); !image.isNull()) {
      p.drawImage(box, image);
    } else if (!empty) {
      p.save();  // A fault.
      p.setClipRect(box);
      for (int x = box.left() - box.height(); x < box.right(); x += 8) {
        p.setPen(QPen(t.ink, 2));
        p.drawLine(x, box.bottom(), x + box.height(), box.top());
      }
      p.restore();
    }
    p.setPen(QPen(n == chosen_ && hasFocus() ? t.madder : t.rule, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRect(box.adjusted(-1, -1, 0, 0));
    if (n == chosen_ && hasFocus()) p.drawRect(box.adjusted(-2, -2, 1, 1));
    if (faulty.contains(n)) {  // The warning mark; its words are in the list below.
      p.setRenderHint(QPainter::Antialiasing);
      p.setPen(Qt::NoPen);
      p.setBrush(t.ochre);
      p.drawEllipse(QPointF(box.right() - 3, box.top() - 7), 3, 3);
      p.setRenderHint(QPainter::Antialiasing, false);
    }
    if (box.width() >= 28) {
      p.setRenderHint(QPainter::Antialiasing);
      p.setPen(QPen(t.ink, 0.8));
      constexpr double a = 1 / 8.0, b = 0.5, c = 7 / 8.0;
      static const std::vector<QPointF> kEight = {
          {b, a}, {c, a}, {c, b}, {c, c}, {b, c}, {a, c}, {a, b}, {a, a}};
      static const std::vector<QPointF> kCorners = {{a, c}, {c, c}, {c, a}, {a, a}};
      for (int k = 0; k < cases.bits(); ++k) {
        const QPointF at = cases.bits() == 8 ? kEight[static_cast<size_t>(k)]
                           : cases.method() == acre::TileMethod::Corners
                               ? kCorners[static_cast<size_t>(k)]
                               : kEight[static_cast<size_t>(2 * k)];
        p.setBrush(cases.maskOf(n) >> k & 1 ? t.ink : t.sheet);
        p.drawEllipse(
            QPointF(box.left() + at.x() * box.width(), box.top() + at.y() * box.height()), 2, 2);
      }
      p.setRenderHint(QPainter::Antialiasing, false);
    }
    // How often, by its logarithm.
    if (!of_->counts.empty() && of_->counts[static_cast<size_t>(n)] > 0) {
      const double share = std::log1p(static_cast<double>(of_->counts[static_cast<size_t>(n)])) /
                           std::log1p(static_cast<double>(most));
      p.fillRect(QRectF(box.left(), box.bottom() + 2, box.width() * share, kBar - 1), t.soft);
    }
  }
}

void SetSheet::choose(int number) {
  if (number < 0 || number >= count()) return;
  chosen_ = number;
  setAccessibleDescription(of_ ? wordsOf(number) : QString());
  update();
}

void SetSheet::mousePressEvent(QMouseEvent* event) {
  for (int n = 0; n < count(); ++n)
    if (boxOf(n).adjusted(-2, -kWords, 2, 4).contains(event->position().toPoint())) choose(n);
}

void SetSheet::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Left:
      return choose(chosen_ - 1);
    case Qt::Key_Right:
      return choose(chosen_ + 1);
    case Qt::Key_Up:
      return choose(chosen_ - kAcross);
    case Qt::Key_Down:
      return choose(chosen_ + kAcross);
    case Qt::Key_Delete:
      emit leftOut(chosen_);
      return;
    default:
      QWidget::keyPressEvent(event);
  }
}

bool SetSheet::event(QEvent* event) {
  if (event->type() != QEvent::ToolTip || !of_) return QWidget::event(event);
  const auto* help = static_cast<QHelpEvent*>(event);
  for (int n = 0; n < count(); ++n)
    if (boxOf(n).contains(help->pos())) {
      QToolTip::showText(help->globalPos(),
          wordsOf(n) + tr("\nDel leaves it out, or brings it back"), this, boxOf(n));
      return true;
    }
  QToolTip::hideText();
  return true;
}

}  // namespace app

#include "moc_set_sheet.cpp"
