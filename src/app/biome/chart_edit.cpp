// What hands and keys do to the chart; how it looks is in chart_view.cpp.
#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/biome/chart_view.h"
#include "recipe/validate.h"

namespace app {
namespace {

constexpr double kEdgeReach = 5;    ///< How near the pointer must be to an edge, in pixels.
constexpr double kPointReach = 10;  ///< And to a point.
constexpr double kDragStart = 3;
constexpr int kPaintSide = 32;  ///< Cells of a new painting along each axis.

acre::Span& spanOf(acre::Area& area, bool alongX) {
  return alongX ? area.x : area.y;
}
const acre::Span& spanOf(const acre::Area& area, bool alongX) {
  return alongX ? area.x : area.y;
}

}  // namespace

/// A value that a hand can mean: a 200th of the axis, in its unit's own digits.
double ChartView::tidy(double value, bool alongX) const {
  const acre::AxisScale& a = axis(alongX);
  const double unit = std::pow(10, std::floor(std::log10((a.high - a.low) / 100)));
  return std::round(value / unit) * unit;
}

int ChartView::areaAt(QPointF screen) const {
  if (!plot().contains(screen)) return -1;
  const QPointF v = toValues(screen);
  return chart_->decide(static_cast<float>(v.x()), static_cast<float>(v.y()), altitude_).area;
}

int ChartView::idealAt(QPointF screen) const {
  int best = -1;
  double nearest = kPointReach;
  for (size_t i = 0; i < biomes_.list.size(); ++i) {
    if (!biomes_.list[i].ideal) continue;
    const QPointF at = toScreen(biomes_.list[i].ideal->x, biomes_.list[i].ideal->y);
    const double away = std::hypot(at.x() - screen.x(), at.y() - screen.y());
    if (away >= nearest) continue;
    nearest = away;
    best = static_cast<int>(i);
  }
  return best;
}

/// Edges of the uppermost area that lie near the pointer; two at a corner.
std::vector<ChartView::End> ChartView::endsAt(QPointF screen) const {
  // The chosen area's edges come first, then those of the lowest rank number.
  std::vector<size_t> order;
  for (size_t i = 0; i < biomes_.areas.size(); ++i)
    if (!biomes_.areas[i].painting && inSlice(biomes_.areas[i])) {
      if (biomes_.areas[i].id == chosen_)
        order.insert(order.begin(), i);
      else
        order.push_back(i);
    }
  for (const size_t i : order) {
    const acre::Area& area = biomes_.areas[i];
    const QRectF box = rectOf(area);
    if (!box.adjusted(-kEdgeReach, -kEdgeReach, kEdgeReach, kEdgeReach).contains(screen)) continue;
    std::vector<End> ends;
    // Edges on the chart's own rim can be dragged inwards too.
    if (std::abs(screen.x() - box.left()) < kEdgeReach)
      ends.push_back({i, true, false});
    else if (std::abs(screen.x() - box.right()) < kEdgeReach)
      ends.push_back({i, true, true});
    if (std::abs(screen.y() - box.bottom()) < kEdgeReach)
      ends.push_back({i, false, false});
    else if (std::abs(screen.y() - box.top()) < kEdgeReach)
      ends.push_back({i, false, true});
    if (!ends.empty()) return ends;
  }
  return {};
}

/// Edges of other areas that lie on the dragged ones, so that no hole opens.
void ChartView::addNeighbours(std::vector<End>& ends) const {
  const size_t own = ends.size();
  for (size_t k = 0; k < own; ++k) {
    const End end = ends[k];
    const acre::Area& area = before_.areas[end.area];
    const acre::Span& span = spanOf(area, end.alongX);
    const auto& value = end.high ? span.high : span.low;
    if (!value) continue;
    const acre::Span& side = spanOf(area, !end.alongX);
    for (size_t i = 0; i < before_.areas.size(); ++i) {
      const acre::Area& other = before_.areas[i];
      if (i == end.area || other.painting || !inSlice(other)) continue;
      const acre::Span& theirs = spanOf(other, !end.alongX);
      const auto low = [](const acre::Span& s) { return s.low.value_or(-1e300); };
      const auto high = [](const acre::Span& s) { return s.high.value_or(1e300); };
      if (low(theirs) > high(side) || high(theirs) < low(side)) continue;
      const acre::Span& facing = spanOf(other, end.alongX);
      if (facing.low == value) ends.push_back({i, end.alongX, false});
      if (facing.high == value) ends.push_back({i, end.alongX, true});
    }
  }
}

std::string ChartView::freshAreaId() const {
  std::vector<std::string> ids;
  for (const acre::Area& area : biomes_.areas) ids.push_back(area.id);
  return acre::freshId("area", ids);
}

acre::Area ChartView::newArea() const {
  acre::Area area;
  area.id = freshAreaId();
  area.biome = brush_.empty() && !biomes_.list.empty() ? biomes_.list.front().id : brush_;
  if (biomes_.slices.size() > 1) area.slices = {biomes_.slices[static_cast<size_t>(slice_)].id};
  return area;
}

void ChartView::emitEdit(const QString& step, const acre::Biomes& next, bool during) {
  emit edited(step, next, during);
}

void ChartView::addAreaAt(QPointF values) {
  if (biomes_.list.empty()) return emit refused(tr("Add a biome first."));
  if (biomes_.areas.size() >= acre::limits::areas)
    return emit refused(tr("A chart holds at most %1 areas.").arg(acre::limits::areas));
  acre::Area area = newArea();
  const auto about = [&](double v, bool alongX) {
    const acre::AxisScale& a = axis(alongX);
    const double half = (a.high - a.low) / 8;
    acre::Span span{tidy(v - half, alongX), tidy(v + half, alongX)};
    if (*span.low <= a.low) span.low.reset();
    if (*span.high >= a.high) span.high.reset();
    return span;
  };
  area.x = about(values.x(), true);
  area.y = about(values.y(), false);
  acre::Biomes next = biomes_;
  // On top, or it might decide nothing.
  next.areas.insert(next.areas.begin(), area);
  emitEdit(tr("Add area"), next, false);
  choose(area.id);
}

void ChartView::removeChosen() {
  if (chosen_.empty()) return;
  acre::Biomes next = biomes_;
  if (points()) {
    for (acre::Biome& biome : next.list)
      if (biome.id == chosen_) biome.ideal.reset();
  } else {
    std::erase_if(next.areas, [&](const acre::Area& a) { return a.id == chosen_; });
  }
  if (next == biomes_) return;
  choose({});
  emitEdit(points() ? tr("Delete ideal point") : tr("Delete area"), next, false);
}

void ChartView::raiseChosen() {
  acre::Biomes next = biomes_;
  for (size_t i = 1; i < next.areas.size() && !points(); ++i)
    if (next.areas[i].id == chosen_) {
      std::swap(next.areas[i], next.areas[i - 1]);
      return emitEdit(tr("Raise the rank of an area"), next, false);
    }
}

// ---- paint -------------------------------------------------------------------------------------

/// The painting of this slice alone; made, first of all rules, when there is none.
acre::Area* ChartView::paintingOf(acre::Biomes& biomes) {
  for (acre::Area& area : biomes.areas)
    if (area.painting && inSlice(area) && (area.slices.size() == 1 || biomes.slices.size() < 2))
      return &area;
  if (biomes.areas.size() >= acre::limits::areas) return nullptr;
  acre::Area area = newArea();
  area.biome.clear();
  acre::Painting& painting = area.painting.emplace();
  painting.columns = painting.rows = kPaintSide;
  painting.cells.assign(size_t{kPaintSide} * kPaintSide, 0);
  biomes.areas.insert(biomes.areas.begin(), area);
  return &biomes.areas.front();
}

/// The number of the brush in a painting; 0 to erase.
uint16_t ChartView::brushIn(acre::Painting& painting) const {
  if (tool_ == Tool::Erase) return 0;
  const std::string& id =
      brush_.empty() && !biomes_.list.empty() ? biomes_.list.front().id : brush_;
  const auto found = std::find(painting.biomes.begin(), painting.biomes.end(), id);
  const auto index = static_cast<uint16_t>(found - painting.biomes.begin() + 1);
  if (found == painting.biomes.end()) painting.biomes.push_back(id);
  return index;
}

namespace {

/// The cell of a painting at a place of the chart, as shares from low x and low y.
size_t cellAt(const acre::Painting& painting, double x, double y) {
  const auto part = [](double share, int count) {
    return static_cast<size_t>(std::clamp(share * count, 0.0, count - 1.0));
  };
  return part(y, painting.rows) * static_cast<size_t>(painting.columns) + part(x, painting.columns);
}

}  // namespace

void ChartView::paintCells(QPointF from, QPointF to) {
  if (tool_ == Tool::Paint && biomes_.list.empty()) return emit refused(tr("Add a biome first."));
  const QRectF r = plot();
  acre::Biomes next = biomes_;
  acre::Area* painting = nullptr;
  if (tool_ == Tool::Paint) {
    painting = paintingOf(next);
    if (!painting)
      return emit refused(tr("A chart holds at most %1 areas.").arg(acre::limits::areas));
  }
  // Along the way, so that a quick hand leaves no gaps.
  const QPointF way = to - from;
  const int steps = 1 + static_cast<int>(std::hypot(way.x(), way.y()) / 3);
  for (int k = 0; k <= steps; ++k) {
    const QPointF screen = from + way * k / steps;
    const double x = (screen.x() - r.left()) / r.width();
    const double y = (r.bottom() - screen.y()) / r.height();
    if (x < 0 || x >= 1 || y < 0 || y >= 1) continue;
    if (painting) {
      const uint16_t brush = brushIn(*painting->painting);
      painting->painting->cells[cellAt(*painting->painting, x, y)] = brush;
      continue;
    }
    // What decides here goes: a painted cell, or at a click the whole area.
    const int at = areaAt(screen);
    if (at < 0) continue;
    acre::Area& area = next.areas[static_cast<size_t>(at)];
    if (area.painting) {
      area.painting->cells[cellAt(*area.painting, x, y)] = 0;
    } else if (!moved_) {
      next.areas.erase(next.areas.begin() + at);
      break;
    }
  }
  if (next == biomes_) return;
  emitEdit(painting ? tr("Paint on the chart") : tr("Erase on the chart"), next, true);
}

void ChartView::fillFrom(QPointF screen) {
  if (biomes_.list.empty()) return emit refused(tr("Add a biome first."));
  const QRectF r = plot();
  if (!r.contains(screen)) return;
  acre::Biomes next = biomes_;
  acre::Area* area = paintingOf(next);
  if (!area) return emit refused(tr("A chart holds at most %1 areas.").arg(acre::limits::areas));
  acre::Painting& painting = *area->painting;
  const uint16_t brush = brushIn(painting);
  const auto columns = static_cast<size_t>(painting.columns);
  // What is alike: cells in whose middle the same biome decides.
  const auto biomeAt = [&](size_t cell) {
    const auto middle = [&](bool alongX, size_t k, int n) {
      const acre::AxisScale& a = axis(alongX);
      return static_cast<float>(a.low + (a.high - a.low) * (static_cast<double>(k) + 0.5) / n);
    };
    return chart_
        ->decide(middle(true, cell % columns, painting.columns),
            middle(false, cell / columns, painting.rows), altitude_)
        .biome;
  };
  const size_t start =
      cellAt(painting, (screen.x() - r.left()) / r.width(), (r.bottom() - screen.y()) / r.height());
  const acre::BiomeIndex alike = biomeAt(start);
  std::vector<bool> seen(painting.cells.size());
  std::vector<size_t> open = {start};
  seen[start] = true;
  while (!open.empty()) {
    const size_t cell = open.back();
    open.pop_back();
    painting.cells[cell] = brush;
    const auto visit = [&](bool there, size_t other) {
      if (!there || seen[other] || biomeAt(other) != alike) return;
      seen[other] = true;
      open.push_back(other);
    };
    visit(cell % columns > 0, cell - 1);
    visit(cell % columns + 1 < columns, cell + 1);
    visit(cell >= columns, cell - columns);
    visit(cell + columns < painting.cells.size(), cell + columns);
  }
  // A painting below other rules would not show what was filled.
  std::rotate(next.areas.begin(), next.areas.begin() + (area - next.areas.data()),
      next.areas.begin() + (area - next.areas.data()) + 1);
  emitEdit(tr("Fill on the chart"), next, false);
}

// ---- the pointer -------------------------------------------------------------------------------

void ChartView::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton || !chart_) return;
  setFocus(Qt::MouseFocusReason);
  pressed_ = true;
  moved_ = false;
  pressAt_ = e->position();
  before_ = biomes_;
  ends_.clear();
  switch (tool_) {
    case Tool::Select: {
      if (points()) {
        const int at = idealAt(pressAt_);
        choose(at < 0 ? std::string() : biomes_.list[static_cast<size_t>(at)].id);
        break;
      }
      ends_ = endsAt(pressAt_);
      if (!ends_.empty()) {
        choose(biomes_.areas[ends_[0].area].id);
        if (!(e->modifiers() & Qt::AltModifier)) addNeighbours(ends_);
      } else {
        const int at = areaAt(pressAt_);
        choose(at < 0 ? std::string() : biomes_.areas[static_cast<size_t>(at)].id);
      }
      break;
    }
    case Tool::Rectangle:
      if (points()) emit refused(tr("Ideal points need no areas; choose Areas first."));
      pressed_ = !points();
      break;
    case Tool::Fill:
      pressed_ = false;
      if (points()) return emit refused(tr("Ideal points need no paint; choose Areas first."));
      return fillFrom(pressAt_);
    case Tool::Paint:
    case Tool::Erase:
      if (points()) {
        pressed_ = false;
        return emit refused(tr("Ideal points need no paint; choose Areas first."));
      }
      paintedTo_ = pressAt_;
      paintCells(pressAt_, pressAt_);
      break;
  }
}

void ChartView::dragTo(QPointF screen, bool during) {
  acre::Biomes next = before_;
  const auto endless = [&](double value, bool alongX, bool high) {
    const acre::AxisScale& a = axis(alongX);
    return high ? value >= a.high : value <= a.low;
  };
  if (points()) {
    for (acre::Biome& biome : next.list)
      if (biome.id == chosen_ && biome.ideal) {
        const QPointF v = toValues(screen);
        const auto within = [&](double value, bool alongX) {
          return std::clamp(tidy(value, alongX), axis(alongX).low, axis(alongX).high);
        };
        biome.ideal->x = within(v.x(), true);
        biome.ideal->y = within(v.y(), false);
      }
    return emitEdit(tr("Move ideal point"), next, during);
  }
  const QPointF to = toValues(screen);
  if (!ends_.empty()) {
    for (const End& end : ends_) {
      acre::Span& span = spanOf(next.areas[end.area], end.alongX);
      const double value = tidy(end.alongX ? to.x() : to.y(), end.alongX);
      auto& moved = end.high ? span.high : span.low;
      moved = value;
      if (endless(value, end.alongX, end.high)) moved.reset();
      const acre::AxisScale& a = axis(end.alongX);
      const double least = (a.high - a.low) / 100;
      // Ends never cross, and never leave the chart.
      const double low = span.low.value_or(a.low), high = span.high.value_or(a.high);
      if (!(high - low >= least)) return;
    }
    return emitEdit(tr("Move an edge of an area"), next, during);
  }
  const QPointF from = toValues(pressAt_);
  for (acre::Area& area : next.areas) {
    if (area.id != chosen_ || area.painting) continue;
    for (const bool alongX : {true, false}) {
      acre::Span& span = spanOf(area, alongX);
      const double by = alongX ? to.x() - from.x() : to.y() - from.y();
      for (auto* end : {&span.low, &span.high})
        if (*end) *end = tidy(**end + by, alongX);
      const acre::AxisScale& a = axis(alongX);
      if (span.low.value_or(a.low) >= a.high || span.high.value_or(a.high) <= a.low) return;
      if (span.low && *span.low <= a.low) span.low = a.low;
      if (span.high && *span.high >= a.high) span.high = a.high;
    }
  }
  emitEdit(tr("Move an area"), next, during);
}

void ChartView::updateCursor(QPointF screen) {
  if (tool_ != Tool::Select || pressed_) return;
  if (points()) return setCursor(idealAt(screen) >= 0 ? Qt::SizeAllCursor : Qt::ArrowCursor);
  const auto ends = endsAt(screen);
  setCursor(ends.empty()      ? Qt::ArrowCursor
            : ends.size() > 1 ? Qt::SizeAllCursor
            : ends[0].alongX  ? Qt::SizeHorCursor
                              : Qt::SizeVerCursor);
}

void ChartView::mouseMoveEvent(QMouseEvent* e) {
  if (!chart_) return;
  const QPointF v = toValues(e->position());
  emit patchHovered(plot().contains(e->position()), v.x(), v.y());
  updateCursor(e->position());
  if (!pressed_) return;
  const QPointF away = e->position() - pressAt_;
  if (!moved_ && std::hypot(away.x(), away.y()) < kDragStart) return;
  moved_ = true;
  switch (tool_) {
    case Tool::Select:
      if (!chosen_.empty()) dragTo(e->position(), true);
      break;
    case Tool::Rectangle:
      rubber_ = QRectF(pressAt_, e->position()).normalized().intersected(plot());
      update();
      break;
    default:
      paintCells(std::exchange(paintedTo_, e->position()), e->position());
  }
}

void ChartView::mouseReleaseEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton || !std::exchange(pressed_, false)) return;
  update();  // In full again.
  const auto rubber = std::exchange(rubber_, {});
  if (tool_ == Tool::Rectangle && rubber && rubber->width() > 4 && rubber->height() > 4) {
    if (biomes_.list.empty()) return emit refused(tr("Add a biome first."));
    acre::Area area = newArea();
    const QPointF low = toValues(rubber->bottomLeft()), high = toValues(rubber->topRight());
    const QRectF r = plot();
    area.x = {tidy(low.x(), true), tidy(high.x(), true)};
    area.y = {tidy(low.y(), false), tidy(high.y(), false)};
    // What was drawn to the chart's rim goes on beyond it.
    if (rubber->left() <= r.left() + 1) area.x.low.reset();
    if (rubber->right() >= r.right() - 1) area.x.high.reset();
    if (rubber->bottom() >= r.bottom() - 1) area.y.low.reset();
    if (rubber->top() <= r.top() + 1) area.y.high.reset();
    acre::Biomes next = biomes_;
    next.areas.insert(next.areas.begin(), area);
    emitEdit(tr("Draw an area"), next, false);
    choose(area.id);
  }
  emit gestureEnded();
  update();
}

void ChartView::leaveEvent(QEvent*) {
  emit patchHovered(false, 0, 0);
}

// ---- keys --------------------------------------------------------------------------------------

bool ChartView::focusNextPrevChild(bool next) {
  std::vector<std::string> order;
  if (points()) {
    for (const acre::Biome& biome : biomes_.list)
      if (biome.ideal) order.push_back(biome.id);
  } else {
    for (const acre::Area& area : biomes_.areas)
      if (inSlice(area)) order.push_back(area.id);
  }
  const auto at = std::find(order.begin(), order.end(), chosen_);
  const auto now =
      at == order.end() ? (next ? -1 : static_cast<ptrdiff_t>(order.size())) : at - order.begin();
  const ptrdiff_t to = now + (next ? 1 : -1);
  if (!hasFocus() || to < 0 || to >= static_cast<ptrdiff_t>(order.size()))
    return QWidget::focusNextPrevChild(next);
  choose(order[static_cast<size_t>(to)]);
  return true;
}

void ChartView::moveChosen(int dx, int dy, bool size) {
  before_ = biomes_;
  ends_.clear();
  const acre::AxisScale &ax = axis(true), &ay = axis(false);
  const QPointF by((ax.high - ax.low) / 100 * dx, (ay.high - ay.low) / 100 * dy);
  if (points()) {
    for (const acre::Biome& biome : biomes_.list)
      if (biome.id == chosen_ && biome.ideal)
        dragTo(toScreen(biome.ideal->x + by.x(), biome.ideal->y + by.y()), false);
    return;
  }
  for (size_t i = 0; i < biomes_.areas.size(); ++i) {
    const acre::Area& area = biomes_.areas[i];
    if (area.id != chosen_ || area.painting) continue;
    if (size) {
      if (dx != 0) ends_.push_back({i, true, true});
      if (dy != 0) ends_.push_back({i, false, true});
      addNeighbours(ends_);
      dragTo(
          toScreen(area.x.high.value_or(ax.high) + by.x(), area.y.high.value_or(ay.high) + by.y()),
          false);
    } else {
      pressAt_ = toScreen(ax.low, ay.low);
      dragTo(toScreen(ax.low + by.x(), ay.low + by.y()), false);
    }
    return;
  }
}

void ChartView::keyPressEvent(QKeyEvent* e) {
  if (!chart_) return QWidget::keyPressEvent(e);
  const auto move = [&](int dx, int dy) {
    if (held_) return moveChosen(dx, dy, e->modifiers() & Qt::ControlModifier);
    const acre::AxisScale &ax = axis(true), &ay = axis(false);
    QPointF at = cross_.value_or(QPointF((ax.low + ax.high) / 2, (ay.low + ay.high) / 2));
    const int times = e->modifiers() & Qt::ShiftModifier ? 10 : 1;
    at += QPointF((ax.high - ax.low) / 100 * dx * times, (ay.high - ay.low) / 100 * dy * times);
    at.setX(std::clamp(at.x(), ax.low, ax.high));
    at.setY(std::clamp(at.y(), ay.low, ay.high));
    cross_ = at;
    if (!points()) {
      const int area =
          chart_->decide(static_cast<float>(at.x()), static_cast<float>(at.y()), altitude_).area;
      choose(area < 0 ? std::string() : biomes_.areas[static_cast<size_t>(area)].id);
    }
    emit patchHovered(true, at.x(), at.y());
    update();
  };
  switch (e->key()) {
    case Qt::Key_Left:
      return move(-1, 0);
    case Qt::Key_Right:
      return move(1, 0);
    case Qt::Key_Up:
      return move(0, 1);
    case Qt::Key_Down:
      return move(0, -1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
      held_ = !held_ && !chosen_.empty();
      if (!held_) emit gestureEnded();
      describe();
      return update();
    case Qt::Key_N:
      if (points()) return emit refused(tr("Choose a biome in the list and give it a point."));
      return addAreaAt(cross_.value_or(QPointF(
          (axis(true).low + axis(true).high) / 2, (axis(false).low + axis(false).high) / 2)));
    case Qt::Key_R:
      return raiseChosen();
    case Qt::Key_Delete:
      return removeChosen();
    case Qt::Key_PageUp:
      return emit sliceStepped(1);
    case Qt::Key_PageDown:
      return emit sliceStepped(-1);
    case Qt::Key_Escape:
      if (held_) {
        held_ = false;
        emit gestureEnded();
        return update();
      }
      cross_.reset();
      return emit left();
    default:
      QWidget::keyPressEvent(e);
  }
}

}  // namespace app
