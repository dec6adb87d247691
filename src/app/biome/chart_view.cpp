#include "app/biome/chart_view.h"

#include <QHelpEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "output/contours.h"
#include "output/picture.h"

namespace app {
namespace {

constexpr size_t kDots = 700;

QColor toQColor(const acre::Colour& c) {
  return {c.red, c.green, c.blue};
}

/// Lines where a density passes a level, in shares of the chart.
std::vector<QPolygonF> linesAt(const acre::ChartDensity& density, float level) {
  std::vector<QPolygonF> out;
  if (!(level > 0) || density.size == 0) return out;
  // One line alone: what lies above the level is cut off below the next one.
  std::vector<float> scaled;
  scaled.reserve(density.counts.size());
  for (const float v : density.counts) scaled.push_back(std::min(v / level, 1.5f));
  for (const acre::ContourLine& line :
      acre::contours(scaled.data(), density.size, density.size, density.size, 1)) {
    if (line.level != 1) continue;
    QPolygonF polygon;
    for (const acre::ContourPoint& p : line.points)
      polygon.append({(p.x + 0.5) / density.size, (p.z + 0.5) / density.size});
    if (line.closed && !polygon.isEmpty()) polygon.append(polygon.front());
    out.push_back(std::move(polygon));
  }
  return out;
}

QString figure(double v) {
  return look::number(std::round(v * 100) / 100);
}

}  // namespace

ChartView::ChartView(QWidget* parent) : QWidget(parent) {
  setObjectName(QStringLiteral("chart"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumHeight(sizeHint().height());
  setAccessibleName(tr("Climate chart"));
  setToolTip(
      tr("What the world brings is behind: lines around 50, 90 and 99 % of it.\n"
         "Drag an area, its edges or an ideal point; Alt parts edges that lie together.\n"
         "Beyond the chart's ends the outermost are endless. Hatched: no rule covers it."));
}

void ChartView::setChart(const acre::Recipe& recipe, std::shared_ptr<const acre::Chart> chart) {
  biomes_ = recipe.biomes;
  const auto name = [&](const acre::ChartAxis& axis) {
    const acre::FieldRecipe* field = acre::fieldOf(recipe, axis.field);
    return QString::fromStdString(field ? field->name : axis.field);
  };
  nameX_ = name(biomes_.x);
  nameY_ = name(biomes_.y);
  chart_ = std::move(chart);
  picture_ = {};
  describe();
  update();
}

void ChartView::setSlice(int slice, float altitude) {
  if (slice == slice_ && altitude == altitude_) return;
  slice_ = slice;
  altitude_ = altitude;
  picture_ = {};
  update();
}

void ChartView::setTool(Tool tool) {
  tool_ = tool;
  held_ = false;
  setCursor(tool == Tool::Select ? Qt::ArrowCursor : Qt::CrossCursor);
}

void ChartView::setDensity(
    std::shared_ptr<const acre::ChartSample> sample, acre::ChartDensity density) {
  // While areas are dragged the world's own density stays what it is.
  const bool same = sample && sample == sample_ && slice_ == densitySlice_ && chart_ &&
                    chart_->sliceEnds() == densityEnds_;
  if (same) return;
  densitySlice_ = slice_;
  densityEnds_ = chart_ ? chart_->sliceEnds() : std::vector<float>();
  sample_ = std::move(sample);
  density_ = std::move(density);
  for (size_t k = 0; k < 3; ++k) contours_[k] = linesAt(density_, density_.levels[k]);
  dots_.clear();
  if (sample_ && chart_) {
    const size_t step = std::max<size_t>(1, sample_->size() / kDots);
    for (size_t i = 0; i < sample_->size(); i += step)
      if (chart_->decide(sample_->x[i], sample_->y[i], sample_->altitude[i]).slice == slice_)
        dots_.emplace_back(sample_->x[i], sample_->y[i]);
  }
  update();
}

void ChartView::setCounts(std::vector<uint64_t> counts) {
  counts_ = std::move(counts);
  update();
}

void ChartView::setHair(std::optional<QPointF> values) {
  if (values == hair_) return;
  hair_ = values;
  update();
}

void ChartView::choose(const std::string& id) {
  if (id == chosen_) return;
  chosen_ = id;
  held_ = false;
  describe();
  emit chosenChanged();
  update();
}

// ---- places ------------------------------------------------------------------------------------

QRectF ChartView::plot() const {
  return QRectF(rect()).adjusted(46, 6, -8, -34);
}

QPointF ChartView::toScreen(double x, double y) const {
  const QRectF r = plot();
  const acre::AxisScale &ax = axis(true), &ay = axis(false);
  return {r.left() + (x - ax.low) / (ax.high - ax.low) * r.width(),
      r.bottom() - (y - ay.low) / (ay.high - ay.low) * r.height()};
}

QPointF ChartView::toValues(QPointF screen) const {
  const QRectF r = plot();
  const acre::AxisScale &ax = axis(true), &ay = axis(false);
  return {ax.low + (screen.x() - r.left()) / r.width() * (ax.high - ax.low),
      ay.low + (r.bottom() - screen.y()) / r.height() * (ay.high - ay.low)};
}

bool ChartView::inSlice(const acre::Area& area) const {
  if (area.slices.empty()) return true;
  const auto at = static_cast<size_t>(slice_);
  return at < biomes_.slices.size() && std::find(area.slices.begin(), area.slices.end(),
                                           biomes_.slices[at].id) != area.slices.end();
}

QRectF ChartView::rectOf(const acre::Area& area) const {
  const QRectF r = plot();
  const auto at = [&](const std::optional<double>& end, bool alongX, double fallback) {
    if (!end) return fallback;
    return alongX ? toScreen(*end, 0).x() : toScreen(0, *end).y();
  };
  return QRectF(QPointF(at(area.x.low, true, r.left()), at(area.y.high, false, r.top())),
      QPointF(at(area.x.high, true, r.right()), at(area.y.low, false, r.bottom())));
}

QString ChartView::nameOf(const std::string& id, bool* never) const {
  for (size_t i = 0; i < biomes_.list.size(); ++i) {
    if (biomes_.list[i].id != id) continue;
    if (never) *never = i + 1 < counts_.size() && counts_[i + 1] == 0;
    return QString::fromStdString(biomes_.list[i].name);
  }
  return {};
}

void ChartView::describe() {
  QString text;
  for (size_t i = 0; i < biomes_.areas.size() && !points(); ++i) {
    const acre::Area& area = biomes_.areas[i];
    if (area.id != chosen_) continue;
    const auto span = [&](const acre::Span& s, bool alongX) {
      const auto end = [&](const std::optional<double>& v, const QString& none) {
        return v && chart_ ? figure(axis(alongX).told(*v)) : none;
      };
      return tr("%1 to %2").arg(end(s.low, tr("the beginning")), end(s.high, tr("the end")));
    };
    text = area.painting ? tr("%1 of %2, painting").arg(i + 1).arg(biomes_.areas.size())
                         : tr("%1 of %2, %3, %4 %5, %6 %7")
                               .arg(i + 1)
                               .arg(biomes_.areas.size())
                               .arg(nameOf(area.biome), nameX_, span(area.x, true), nameY_,
                                   span(area.y, false));
  }
  for (const acre::Biome& biome : biomes_.list)
    if (points() && biome.id == chosen_ && biome.ideal && chart_)
      text = tr("%1, %2 %3, %4 %5")
                 .arg(QString::fromStdString(biome.name), nameX_,
                     figure(axis(true).told(biome.ideal->x)), nameY_,
                     figure(axis(false).told(biome.ideal->y)));
  if (held_) text += tr(", held");
  setAccessibleDescription(text);
}

// ---- painting ----------------------------------------------------------------------------------

/// Biomes pixel by pixel, thin over the sheet; hatched where there is none.
void ChartView::makePicture(int grain) {
  const QRect r = plot().toRect();
  grain_ = grain;
  picture_ =
      QImage(std::max(1, r.width() / grain), std::max(1, r.height() / grain), QImage::Format_RGB32);
  night_ = look::isNight();
  const auto width = static_cast<size_t>(picture_.width());
  std::vector<float> x(width), y(width), altitude(width, altitude_);
  std::vector<acre::BiomeIndex> row(width), above(width);
  for (size_t i = 0; i < width; ++i)
    x[i] = static_cast<float>(toValues({r.left() + (static_cast<double>(i) + 0.5) * grain, 0}).x());
  std::vector<QRgb> inks = {0};
  const QColor sheet = look::tokens().sheet, ink = look::tokens().ink;
  const auto mixed = [](const QColor& a, const QColor& b, double t) {
    return qRgb(static_cast<int>(a.red() + (b.red() - a.red()) * t),
        static_cast<int>(a.green() + (b.green() - a.green()) * t),
        static_cast<int>(a.blue() + (b.blue() - a.blue()) * t));
  };
  for (const acre::Biome& biome : biomes_.list)
    inks.push_back(mixed(sheet, toQColor(biome.colour), 0.62));
  for (int j = 0; j < picture_.height(); ++j) {
    std::fill(
        y.begin(), y.end(), static_cast<float>(toValues({0, r.top() + (j + 0.5) * grain}).y()));
    chart_->lookUp(*acre::availableKernels().front(), picture_.width(), x.data(), y.data(),
        altitude.data(), row.data());
    auto* line = reinterpret_cast<QRgb*>(picture_.scanLine(j));
    for (size_t i = 0; i < width; ++i) {
      const bool edge = (i > 0 && row[i] != row[i - 1]) || (j > 0 && row[i] != above[i]);
      line[i] = row[i] == acre::kNoBiome ? acre::hatchAt(static_cast<int64_t>(i), j) : inks[row[i]];
      if (edge) line[i] = mixed(QColor::fromRgb(line[i]), ink, 0.5);
    }
    std::swap(row, above);
  }
}

/// The visible place of every area that is nearest to the middle of what is visible of it.
void ChartView::placeNames() {
  const int step = 5 * grain_;
  const QRectF r = plot();
  struct Seen {
    QPointF sum;
    std::vector<QPointF> places;
  };
  std::vector<Seen> seen(biomes_.areas.size());
  for (double y = r.top() + step; y < r.bottom(); y += step)
    for (double x = r.left() + step; x < r.right(); x += step) {
      const QPointF v = toValues({x, y});
      const int area =
          chart_->decide(static_cast<float>(v.x()), static_cast<float>(v.y()), altitude_).area;
      if (area < 0) continue;
      Seen& s = seen[static_cast<size_t>(area)];
      s.sum += QPointF(x, y);
      s.places.emplace_back(x, y);
    }
  names_.assign(seen.size(), {});
  for (size_t i = 0; i < seen.size(); ++i) {
    const Seen& s = seen[i];
    if (s.places.size() < 4) continue;
    const QPointF middle = s.sum / static_cast<double>(s.places.size());
    names_[i] = *std::min_element(
        s.places.begin(), s.places.end(), [&](const QPointF& a, const QPointF& b) {
          return QPointF::dotProduct(a - middle, a - middle) <
                 QPointF::dotProduct(b - middle, b - middle);
        });
  }
}

bool ChartView::event(QEvent* e) {
  // Over the chart itself a tooltip would cover what is looked at.
  if (e->type() == QEvent::ToolTip &&
      plot().contains(static_cast<QHelpEvent*>(e)->pos().toPointF())) {
    QToolTip::hideText();
    return true;
  }
  return QWidget::event(e);
}

void ChartView::paintDensity(QPainter& p) {
  const look::Tokens& t = look::tokens();
  const QRectF r = plot();
  p.setPen(QPen(QColor(t.ink.red(), t.ink.green(), t.ink.blue(), 120), 1.4));
  for (const QPointF& dot : dots_) p.drawPoint(toScreen(dot.x(), dot.y()));
  p.setRenderHint(QPainter::Antialiasing);
  constexpr double kWidths[3] = {1.5, 1.1, 0.8};
  for (size_t k = 0; k < 3; ++k)
    for (const QPolygonF& line : contours_[k]) {
      QPolygonF drawn;
      for (const QPointF& at : line)
        drawn.append({r.left() + at.x() * r.width(), r.bottom() - at.y() * r.height()});
      p.setPen(QPen(t.sheet, kWidths[k] + 1.5));
      p.drawPolyline(drawn);
      p.setPen(QPen(t.ink, kWidths[k]));
      p.drawPolyline(drawn);
    }
  p.setRenderHint(QPainter::Antialiasing, false);
}

void ChartView::paintAreas(QPainter& p) {
  const look::Tokens& t = look::tokens();
  const QRectF r = plot();
  const QFont body = look::font(look::Type::Caption);
  for (size_t i = biomes_.areas.size(); i-- > 0;) {
    const acre::Area& area = biomes_.areas[i];
    if (!inSlice(area)) continue;
    const bool chosen = area.id == chosen_;
    if (area.painting) {
      if (!chosen && tool_ == Tool::Select) continue;
      QColor grid = t.ink;
      grid.setAlphaF(0.18F);
      p.setPen(grid);
      for (int k = 1; k < area.painting->columns; ++k) {
        const double x = r.left() + r.width() * k / area.painting->columns;
        p.drawLine(QPointF(x, r.top()), QPointF(x, r.bottom()));
      }
      for (int k = 1; k < area.painting->rows; ++k) {
        const double y = r.top() + r.height() * k / area.painting->rows;
        p.drawLine(QPointF(r.left(), y), QPointF(r.right(), y));
      }
      continue;
    }
    const QRectF box = rectOf(area).intersected(r);
    if (box.width() < 1 || box.height() < 1) continue;
    bool never = false;
    QString name = nameOf(area.biome, &never);
    p.setPen(
        QPen(chosen ? t.madder : t.ink, chosen ? 2 : 1.2, never ? Qt::DashLine : Qt::SolidLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
    if (!names_[i]) continue;
    p.setFont(body);
    if (never) name += tr(" (never)");
    const QFontMetricsF metrics(body);
    const QString rank = QString::number(i + 1) + QChar(0x2009);
    const double wide = metrics.horizontalAdvance(rank + name);
    const double x = std::clamp(
        names_[i]->x() - wide / 2, r.left() + 2, std::max(r.left() + 2, r.right() - wide - 2));
    const double y = names_[i]->y() + metrics.ascent() / 2 - 1;
    look::drawHaloText(p, {x, y}, rank + name);
    p.setPen(t.soft);
    p.drawText(QPointF(x, y), rank);
  }
}

void ChartView::paintIdeals(QPainter& p) {
  const look::Tokens& t = look::tokens();
  const QFont body = look::font(look::Type::Caption);
  p.setFont(body);
  const QFontMetricsF metrics(body);
  for (const acre::Biome& biome : biomes_.list) {
    if (!biome.ideal) continue;
    const QPointF at = toScreen(biome.ideal->x, biome.ideal->y);
    const bool chosen = biome.id == chosen_;
    bool never = false;
    QString name = nameOf(biome.id, &never);
    if (never) name += tr(" (never)");
    for (const auto& [colour, width] :
        {std::pair(t.sheet, 4.5), std::pair(chosen ? t.madder : t.ink, chosen ? 2.5 : 1.6)}) {
      p.setPen(QPen(colour, width, Qt::SolidLine, Qt::FlatCap));
      p.drawLine(at - QPointF(6, 0), at + QPointF(6, 0));
      p.drawLine(at - QPointF(0, 6), at + QPointF(0, 6));
    }
    const double wide = metrics.horizontalAdvance(name);
    const double x = std::clamp(at.x() - wide / 2, plot().left() + 2,
        std::max(plot().left() + 2, plot().right() - wide - 2));
    look::drawHaloText(p, {x, at.y() + (at.y() > plot().bottom() - 24 ? -9 : 18)}, name);
  }
}

void ChartView::paintAxes(QPainter& p) {
  const look::Tokens& t = look::tokens();
  const QRectF r = plot();
  p.setPen(t.edge);
  p.setBrush(Qt::NoBrush);
  p.drawRect(r);
  p.setFont(look::font(look::Type::Caption));
  constexpr int kTicks = 4;
  for (int k = 0; k <= kTicks; ++k) {
    const double share = static_cast<double>(k) / kTicks;
    const auto told = [&](bool alongX) {
      const acre::AxisScale& a = axis(alongX);
      return figure(a.told(a.low + (a.high - a.low) * share));
    };
    const double x = r.left() + r.width() * share, y = r.bottom() - r.height() * share;
    p.setPen(t.edge);
    p.drawLine(QPointF(x, r.bottom()), QPointF(x, r.bottom() + 3));
    p.drawLine(QPointF(r.left() - 3, y), QPointF(r.left(), y));
    p.setPen(t.soft);
    const int align = k == 0 ? Qt::AlignLeft : k == kTicks ? Qt::AlignRight : Qt::AlignHCenter;
    const double shift = k == 0 ? 0 : k == kTicks ? -60 : -30;
    p.drawText(QRectF(x + shift, r.bottom() + 3, 60, 14), align | Qt::AlignVCenter, told(true));
    p.drawText(QRectF(0, std::clamp(y - 7, r.top(), r.bottom() - 14), r.left() - 5, 14),
        Qt::AlignRight | Qt::AlignVCenter, told(false));
  }
  const auto title = [](const QString& name, const acre::AxisScale& a) {
    return a.unit.empty() ? name
                          : QStringLiteral("%1, %2").arg(name, QString::fromStdString(a.unit));
  };
  p.setPen(t.ink);
  p.drawText(
      QRectF(r.left(), r.bottom() + 17, r.width(), 15), Qt::AlignCenter, title(nameX_, axis(true)));
  p.save();
  p.translate(10, r.center().y());
  p.rotate(-90);
  p.drawText(
      QRectF(-r.height() / 2, -8, r.height(), 15), Qt::AlignCenter, title(nameY_, axis(false)));
  p.restore();
}

void ChartView::paintEvent(QPaintEvent*) {
  QPainter p(this);
  if (!chart_) return;
  const look::Tokens& t = look::tokens();
  // While an edge is dragged the chart is looked up in every second pixel, so that it keeps up.
  const int grain = pressed_ && tool_ == Tool::Select ? 2 : 1;
  if (picture_.isNull() || grain < grain_ || night_ != look::isNight()) {
    makePicture(grain);
    placeNames();
  }
  p.drawImage(plot().toRect(), picture_);
  p.save();
  p.setClipRect(plot());
  paintDensity(p);
  const auto whole = static_cast<size_t>(slice_);
  const bool fixed = whole < biomes_.slices.size() && !biomes_.slices[whole].biome.empty();
  if (fixed) {
    p.setFont(look::font(look::Type::Body));
    const QString text = tr("All of this slice is %1").arg(nameOf(biomes_.slices[whole].biome));
    look::drawHaloText(p,
        {plot().center().x() - QFontMetricsF(p.font()).horizontalAdvance(text) / 2,
            plot().center().y()},
        text);
  } else if (points()) {
    paintIdeals(p);
  } else {
    paintAreas(p);
  }
  if (biomes_.list.empty()) {
    p.setFont(look::font(look::Type::Body));
    const QString text = tr("No biome yet");
    look::drawHaloText(p,
        {plot().center().x() - QFontMetricsF(p.font()).horizontalAdvance(text) / 2,
            plot().center().y()},
        text);
  }
  if (rubber_) {
    p.setPen(QPen(t.madder, 2));
    p.drawRect(*rubber_);
  }
  const auto cross = [&](QPointF values, const QColor& colour) {
    const QPointF at = toScreen(values.x(), values.y());
    for (const auto& [c, width] : {std::pair(t.sheet, 3.0), std::pair(colour, 1.0)}) {
      p.setPen(QPen(c, width));
      p.drawLine(QPointF(plot().left(), at.y()), QPointF(plot().right(), at.y()));
      p.drawLine(QPointF(at.x(), plot().top()), QPointF(at.x(), plot().bottom()));
    }
  };
  if (hair_) cross(*hair_, t.ink);
  if (cross_ && hasFocus()) cross(*cross_, t.madder);
  p.restore();
  paintAxes(p);
  if (hasFocus()) {
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

}  // namespace app

#include "moc_chart_view.cpp"
