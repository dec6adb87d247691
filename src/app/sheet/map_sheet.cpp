#include "app/sheet/map_sheet.h"

#include <QCoreApplication>
#include <QFontMetrics>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "recipe/json.h"
#include "view/scene.h"
#include "world/world.h"

namespace app {
namespace {

const QColor kPaper(0xFB, 0xF9, 0xF3), kInk(0x1F, 0x2D, 0x3A), kSoft(0x66, 0x5D, 0x51),
    kRule(0xCF, 0xC7, 0xB2);

// Before the lettering makes them larger.
constexpr double kMargin = 30, kGap = 16, kColumn = 224, kTicks = 26;
constexpr double kTitle = 30, kHead = 11, kBody = 13, kSmall = 11;
constexpr double kLine = 19, kSwatchWide = 26, kSwatchHigh = 15, kEntry = 21;

QString say(const char* text) {
  return QCoreApplication::translate("MapSheet", text);
}

int64_t niceCells(double least) {
  return std::max<int64_t>(1, std::llround(acre::niceStep(least)));
}

}  // namespace

MapSheet::MapSheet(const acre::World& world, const acre::MapRequest& request,
    const SheetParts& parts, double lettering, QString command, const acre::MapReport& found,
    const SheetChanges& changes)
    : request_(request),
      parts_(parts),
      lettering_(lettering),
      command_(std::move(command)),
      lit_(request.style.relief > 0 && !request.show.isData() &&
           request.show.kind != acre::PictureKind::Material &&
           request.show.kind != acre::PictureKind::Slice) {
  gather(world, found);
  if (parts.changes) gatherChanges(changes);
  layOut();
}

void MapSheet::gatherChanges(const SheetChanges& changes) {
  constexpr size_t kMost = 24;
  const auto value = [](const std::string& json) {
    return json.empty() ? say("not there") : QString::fromStdString(json);
  };
  changes_ << say("from %1").arg(changes.from);
  for (size_t n = 0; n < std::min(kMost, changes.all.size()); ++n) {
    const acre::RecipeDifference& one = changes.all[n];
    // Room to break the line at.
    QString place = QString::fromStdString(one.pointer.substr(1));
    place.replace(QStringLiteral("id:"), QString())
        .replace(QLatin1Char('/'), QStringLiteral(" / "));
    changes_ << say("%1: %2 → %3").arg(place, value(one.was), value(one.is));
  }
  if (changes.all.empty()) changes_ << say("nothing");
  if (changes.all.size() > kMost) changes_ << say("and %1 more").arg(changes.all.size() - kMost);
}

QFont MapSheet::font(double size, bool serif) const {
  QFont out = serif ? look::mapFont() : look::font(look::Type::Body);
  out.setPixelSize(px(size));
  return out;
}

void MapSheet::gather(const acre::World& world, const acre::MapReport& found) {
  const acre::Recipe& recipe = planOf(world).recipe();
  const acre::SampleGrid& grid = request_.grid;
  title_ = QString::fromStdString(recipe.name);
  subtitle_ = say("%1 · seed %2")
                  .arg(QString::fromStdString(acre::nameOf(request_.show)),
                      QString::fromStdString(recipe.seed));
  if (!subtitle_.isEmpty()) subtitle_[0] = subtitle_[0].toUpper();
  // Of materials and biomes those that are there.
  const acre::Palette palette(world, request_.show, request_.style);
  const bool ofThings = request_.show.kind == acre::PictureKind::Composite ||
                        request_.show.kind == acre::PictureKind::Material ||
                        request_.show.kind == acre::PictureKind::Biome;
  std::vector<QRgb> there;
  for (size_t n = 1; n < found.things.size(); ++n)
    if (found.things[n] > 0)
      there.push_back(palette.thingColour(static_cast<acre::MaterialIndex>(n)));
  for (const acre::LegendEntry& entry : acre::legendOf(world, request_.show, grid.step)) {
    const bool asked =
        !ofThings || entry.argb == acre::kNoSwatch || found.cells == 0 ||
        (entry.hatched ? !found.things.empty() && found.things[0] > 0
                       : std::find(there.begin(), there.end(), entry.argb) != there.end());
    const QString text = QString::fromStdString(entry.text);
    const bool twice = std::any_of(legend_.begin(), legend_.end(),
        [&](const Swatch& s) { return s.text == text && s.ink == entry.argb; });
    if (asked && !twice) legend_.push_back({text, entry.argb, entry.hatched});
  }
  const auto number = [](int64_t n) { return look::wholeNumber(n); };
  if (found.lowest <= found.highest)
    figures_ << say("From %1 to %2 high")
                    .arg(look::number(std::round(found.lowest * 10) / 10),
                        look::number(std::round(found.highest * 10) / 10));
  int64_t all = 0, wet = 0;
  for (size_t n = 0; n < found.things.size(); ++n) {
    all += found.things[n];
    if (n > 0 && n <= recipe.materials.size() &&
        recipe.materials[n - 1].state == acre::MaterialState::Liquid)
      wet += found.things[n];
  }
  if (all > 0 && request_.show.kind == acre::PictureKind::Composite)
    figures_ << say("%1 under water")
                    .arg(look::percent(static_cast<double>(wet) / static_cast<double>(all)));
  figures_
      << say("%1 × %2 cells").arg(number(grid.width * grid.step), number(grid.length * grid.step));
  origin_ << say("x %1 to %2").arg(number(grid.x), number(grid.x + (grid.width - 1) * grid.step));
  origin_ << say("z %1 to %2").arg(number(grid.z), number(grid.z + (grid.length - 1) * grid.step));
  origin_ << (grid.step == 1 ? say("a cell a pixel")
                             : say("a pixel every %1 cells").arg(grid.step));
  if (request_.calm > 1) origin_ << QString::fromStdString(acre::calmText(request_.calm));
  origin_ << say("recipe %1").arg(QString::fromStdString(acre::recipeId(recipe).hex()).left(16));
}

QStringList MapSheet::wrapped(const QString& text, const QFont& font, int width) const {
  const QFontMetrics metrics(font);
  QStringList out;
  QString line;
  for (const QString& word : text.split(QLatin1Char(' '), Qt::SkipEmptyParts)) {
    const QString longer = line.isEmpty() ? word : line + QLatin1Char(' ') + word;
    if (!line.isEmpty() && metrics.horizontalAdvance(longer) > width) {
      out << line;
      line = word;
    } else {
      line = longer;
    }
  }
  if (!line.isEmpty()) out << line;
  return out;
}

void MapSheet::layOut() {
  const int margin = parts_.margin ? px(kMargin) : 0;
  const int ticks = parts_.coordinates ? px(kTicks) : 0;
  const bool column = parts_.legend || parts_.scale || parts_.origin || parts_.light ||
                      parts_.figures || parts_.changes;
  const int left = margin + ticks;
  const int top = margin + (parts_.title ? px(kTitle + kLine + kGap) : 0) + ticks;
  map_ = QRect(left, top, request_.grid.width, request_.grid.length);
  int right = map_.right() + 1 + ticks;
  int bottom = map_.bottom() + 1 + ticks;
  if (column) {
    column_ = QRect(right + px(kGap), map_.top(), px(kColumn), 0);
    // Painted once on nothing, to see how far down it goes.
    QImage nothing(1, 1, QImage::Format_RGB32);
    QPainter p(&nothing);
    bottom = std::max(bottom, paintColumn(p));
    right = column_.right() + 1;
  }
  if (parts_.command && !command_.isEmpty()) {
    const auto lines = wrapped(command_, font(kSmall), right - left);
    foot_ = QRect(
        left, bottom + px(kGap / 2), right - left, static_cast<int>(lines.size()) * px(kLine - 3));
    bottom = foot_.bottom() + 1;
  }
  size_ = QSize(right + margin, bottom + margin);
}

void MapSheet::paint(QPainter& p, const QImage& map) const {
  p.save();
  p.fillRect(QRect(QPoint(), size_), kPaper);
  paintFrame(p);
  p.drawImage(map_, map);
  if (parts_.title) paintTitle(p);
  if (!column_.isNull()) {
    paintColumn(p);
  }
  if (!foot_.isNull()) {
    p.setFont(font(kSmall));
    p.setPen(kSoft);
    int y = foot_.top() + px(kSmall);
    for (const QString& line : wrapped(command_, p.font(), foot_.width())) {
      p.drawText(foot_.left(), y, line);
      y += px(kLine - 3);
    }
  }
  if (parts_.margin) {
    const int inset = px(kMargin / 2);
    p.setPen(QPen(kRule, px(1)));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRect(QPoint(), size_).adjusted(inset, inset, -inset - 1, -inset - 1));
  }
  p.restore();
}

void MapSheet::paintTitle(QPainter& p) const {
  const int left = map_.left();
  int y = (parts_.margin ? px(kMargin) : px(4)) + px(kTitle * 0.85);
  p.setFont(font(kTitle, true));
  p.setPen(kInk);
  p.drawText(left, y, title_);
  y += px(kLine + 2);
  p.setFont(font(kBody));
  p.setPen(kSoft);
  p.drawText(left, y, subtitle_);
}

void MapSheet::paintFrame(QPainter& p) const {
  if (parts_ == SheetParts::none()) return;
  const int wide = px(1.5);
  p.fillRect(map_.adjusted(-wide, -wide, wide, wide), kInk);
  if (!parts_.coordinates) return;
  const acre::SampleGrid& grid = request_.grid;
  const int64_t apart = niceCells(static_cast<double>(grid.step) * px(96));
  p.setFont(font(kSmall, true));
  const QFontMetrics metrics(p.font());
  const auto draw = [&](int64_t first, int32_t count, bool along) {
    for (int64_t at = acre::floorDiv(first + apart - 1, apart) * apart;
         at < first + int64_t{count} * grid.step; at += apart) {
      const int pixel = static_cast<int>((at - first) / grid.step);
      const QString text = look::wholeNumber(at);
      const int wide = metrics.horizontalAdvance(text);
      p.setPen(QPen(kInk, px(1)));
      for (const bool far : {false, true}) {
        const int edge = along ? (far ? map_.bottom() + 1 + wide : map_.top() - wide)
                               : (far ? map_.right() + 1 + wide : map_.left() - wide);
        const int out = far ? px(6) : -px(6);
        if (along)
          p.drawLine(map_.left() + pixel, edge, map_.left() + pixel, edge + out);
        else
          p.drawLine(edge, map_.top() + pixel, edge + out, map_.top() + pixel);
        p.setPen(kInk);
        p.save();
        if (along) {
          p.translate(map_.left() + pixel, far ? edge + px(8) + metrics.ascent() : edge - px(9));
        } else {
          p.translate(far ? edge + px(8) + metrics.ascent() : edge - px(9), map_.top() + pixel);
          p.rotate(-90);
        }
        // Whole within the picture's side.
        const int length = along ? map_.width() : map_.height();
        const int place = along ? pixel : length - pixel;
        if (place - wide / 2 >= 0 && place + wide / 2 <= length) p.drawText(-wide / 2, 0, text);
        p.restore();
      }
    }
  };
  draw(grid.x, grid.width, true);
  draw(grid.z, grid.length, false);
}

/// From the top of the column down to what is returned.
int MapSheet::paintColumn(QPainter& p) const {
  const int x = column_.left();
  int y = column_.top();
  const auto head = [&](const QString& text) {
    y += px(kHead);
    QFont caps = look::capitals();
    caps.setPixelSize(px(kHead));
    p.setFont(caps);
    p.setPen(kInk);
    p.drawText(x, y, text.toUpper());
    y += px(5);
    p.setPen(QPen(kRule, px(1)));
    p.drawLine(x, y, x + column_.width() - 1, y);
    y += px(8);
  };
  const auto lines = [&](const QStringList& all) {
    p.setFont(font(kBody));
    p.setPen(kSoft);
    for (const QString& text : all)
      for (const QString& line : wrapped(text, p.font(), column_.width())) {
        y += px(kLine);
        p.drawText(x, y - px(6), line);
      }
    y += px(kGap);
  };
  if (parts_.legend && !legend_.empty()) {
    head(say("Legend"));
    for (const Swatch& entry : legend_) {
      p.setFont(font(kBody));
      const bool bare = entry.ink == acre::kNoSwatch;
      const int indent = bare ? 0 : px(kSwatchWide + 10);
      const auto words = wrapped(entry.text, p.font(), column_.width() - indent);
      if (!bare) {
        const QRect swatch(x, y, px(kSwatchWide), px(kSwatchHigh));
        p.fillRect(
            swatch, entry.hatched ? QBrush(look::hatch()) : QBrush(QColor::fromRgb(entry.ink)));
        p.setPen(QPen(kInk, px(1)));
        p.setBrush(Qt::NoBrush);
        p.drawRect(swatch);
      }
      p.setPen(bare ? kSoft : kInk);
      for (qsizetype n = 0; n < words.size(); ++n)
        p.drawText(x + indent, y + px(12) + static_cast<int>(n) * px(kLine - 2), words[n]);
      y += px(kEntry) + static_cast<int>(std::max<qsizetype>(0, words.size() - 1)) * px(kLine - 2);
    }
    y += px(kGap);
  }
  if (parts_.scale) {
    head(say("Scale"));
    y = paintScale(p, x, y);
  }
  if (parts_.light && lit_) {
    head(say("Light"));
    y = paintLight(p, x, y);
  }
  if (parts_.figures && !figures_.isEmpty()) {
    head(say("Figures"));
    lines(figures_);
  }
  if (parts_.origin) {
    head(say("Area and origin"));
    lines(origin_);
  }
  if (parts_.changes) {
    head(say("Changed"));
    lines(changes_);
  }
  return y;
}

int MapSheet::paintScale(QPainter& p, int x, int y) const {
  const int64_t step = request_.grid.step;
  const int64_t cells =
      std::max(step, niceCells(static_cast<double>(step) * px(110)) / step * step);
  const int wide = static_cast<int>(std::min<int64_t>(cells / step, column_.width()));
  const int high = px(5);
  y += px(4);
  for (int part = 0; part < 4; ++part) {
    const QRect box(x + wide * part / 4, y, wide * (part + 1) / 4 - wide * part / 4, high);
    p.fillRect(box, part % 2 == 0 ? kInk : kPaper);
  }
  p.setPen(QPen(kInk, px(1)));
  p.setBrush(Qt::NoBrush);
  p.drawRect(x, y, wide, high);
  p.setFont(font(kSmall, true));
  y += high + px(kSmall + 4);
  p.drawText(x, y, QStringLiteral("0"));
  const QString all = say("%1 cells").arg(look::wholeNumber(cells));
  p.drawText(
      std::max(x + px(14), x + wide - QFontMetrics(p.font()).horizontalAdvance(all) / 2), y, all);
  return y + px(kGap);
}

/// An arrow along the main light.
int MapSheet::paintLight(QPainter& p, int x, int y) const {
  const double r = px(11);
  const QPointF middle(x + r, y + r);
  const double at = request_.style.light * acre::kDegree;
  const QPointF towards(-std::sin(at), std::cos(at));  // Where it goes.
  const QPointF across(-towards.y(), towards.x());
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(kInk, px(1)));
  p.setBrush(Qt::NoBrush);
  p.drawEllipse(middle, r, r);
  const QPointF tip = middle + towards * r * 0.75, tail = middle - towards * r * 0.75;
  p.drawLine(tail, tip);
  for (const double side : {-1.0, 1.0})
    p.drawLine(tip, tip - towards * r * 0.45 + across * side * r * 0.3);
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setFont(font(kBody));
  p.setPen(kSoft);
  p.drawText(x + px(32), y + px(16),
      say("from %1°, strength %2")
          .arg(look::number(request_.style.light), look::percent(request_.style.relief)));
  return y + px(22 + kGap);
}

}  // namespace app
