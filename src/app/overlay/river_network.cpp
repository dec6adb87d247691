#include "app/overlay/river_network.h"

#include <cmath>

#include "app/look/look.h"
#include "water/network_grid.h"
#include "water/water_stage.h"
#include "world/plan.h"

namespace app {
namespace {

using acre::Brick;
using acre::DrainAt;
using acre::Drains;

constexpr int kQuiet = 190;  // Of 255, that lines between basins cover the ground.

}  // namespace

std::shared_ptr<const MapOverlay> RiverNetwork::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  const acre::WaterStage* stage = planOf(world).water();
  if (!stage) return nullptr;
  auto out = std::make_shared<RiverNetwork>();
  const acre::Rect cells = view.cells();
  const Brick first = acre::brickOf({cells.x - acre::kBrickWidth, cells.z - acre::kBrickLength});
  const Brick last = acre::brickOf(
      {cells.x + cells.width + acre::kBrickWidth, cells.z + cells.length + acre::kBrickLength});
  const int64_t columns = last.i - first.i + 1, rows = last.j - first.j + 1;
  out->tooMany_ = columns > kMost || rows > kMost || columns * rows > kMost;
  if (out->tooMany_) return out;
  try {
    acre::Drainage::Reader net(stage->drainage(), stop);
    for (int64_t j = first.j; j <= last.j; ++j)
      for (int64_t i = first.i; i <= last.i; ++i) {
        if (stop.stop_requested()) return nullptr;
        const Brick b{i, j};
        const DrainAt drain = net.drain(b);
        Reach reach;
        reach.level = acre::cellsOf(drain.level);
        if (drain.drains == Drains::Lake && drain.next == b) {
          ++out->lakes_;
          const auto way = net.outlet(b);
          if (!way || !way->found) continue;
          reach.acrossLake = true;
          reach.area = net.lakeArea(b);
          reach.from = net.bottomOf(b);
          reach.to = net.nodeOf(way->way[1]);
        } else if (net.isRiver(b)) {
          ++out->rivers_;
          reach.area = net.area(b);
          reach.from = reach.to = net.nodeOf(b);
          reach.sink = drain.drains == Drains::Sink;
          if (!reach.sink) reach.to = net.nodeOf(drain.next);
          reach.spring = net.isSpring(b);
          out->springs_ += reach.spring;
        } else {
          continue;
        }
        reach.width = acre::cellsOf(stage->drainage().widthOf(reach.area));
        out->reaches_.push_back(reach);
      }
    out->findDivides(*stage, net, first, last);
  } catch (const acre::Drainage::Reader::Stopped&) {
    return nullptr;
  }
  const acre::Rect inside = intersection(cells, planOf(world).bounds());
  if (inside.width * inside.length <= kMostCells && !inside.empty()) {
    auto found = acre::fallsIn(world, inside, stop);
    if (!found) return nullptr;
    out->falls_ = std::move(found->falls);
  }
  return out;
}

void RiverNetwork::findDivides(
    const acre::WaterStage& stage, acre::Drainage::Reader& net, Brick first, Brick last) {
  acre::Basins basins(stage.drainage().seed());
  for (int64_t j = first.j; j <= last.j; ++j)
    for (int64_t i = first.i; i <= last.i; ++i) {
      const Brick b{i, j};
      const uint32_t own = basins.of(net, b);
      if (own == 0) continue;
      const auto parted = [&](int side) {
        const uint32_t other = basins.of(net, acre::besideBrick(b, side));
        return other != 0 && other != own;
      };
      // Sides 0, 1, 2: the east, and the two halves of the south.
      const acre::Cell m = acre::middleOf(b);
      const acre::Cell se{m.x + acre::kBrickWidth / 2, m.z + acre::kBrickLength / 2};
      if (parted(0)) divides_.push_back({{se.x, se.z - acre::kBrickLength}, se});
      if (parted(1)) divides_.push_back({{m.x, se.z}, se});
      if (parted(2)) divides_.push_back({{se.x - acre::kBrickWidth, se.z}, {m.x, se.z}});
    }
}

void RiverNetwork::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  p.setRenderHint(QPainter::Antialiasing);
  if (tooMany_) {
    p.setFont(look::mapFont());
    look::drawHaloText(p, {12, 22}, QObject::tr("Network of rivers: zoom in, it is too large."));
    return;
  }
  // Quiet, so that the rivers between them are what one sees.
  QColor between = t.sheet;
  between.setAlpha(kQuiet);
  p.setPen(QPen(between, 1.5));
  for (const Divide& d : divides_) p.drawLine(view.toScreen(d.from), view.toScreen(d.to));
  const auto place = [&](acre::Cell c) { return view.toScreen(c, 0.5, 0.5); };
  const auto wide = [&](const Reach& r) {
    return std::clamp(r.width / view.cellsPerPixel * 0.4, 1.2, 7.0);
  };
  for (const bool halo : {true, false})
    for (const Reach& r : reaches_) {
      p.setPen(QPen(halo ? t.sheet : t.ink, wide(r) + (halo ? 2.0 : 0.0),
          r.acrossLake && !halo ? Qt::DotLine : Qt::SolidLine, Qt::RoundCap));
      p.drawLine(place(r.from), place(r.to));
    }
  for (const Reach& r : reaches_) {
    const QPointF from = place(r.from), to = place(r.to), along = to - from;
    const double length = std::hypot(along.x(), along.y());
    // Which way it runs, where there is room to see it.
    if (length > 22) {
      const QPointF ahead = along / length, aside(-ahead.y(), ahead.x());
      const QPointF tip = (from + to) / 2 + ahead * 4;
      const double half = wide(r) / 2 + 2.5;
      p.setPen(QPen(t.sheet, 1));
      p.setBrush(t.ink);
      p.drawPolygon(QPolygonF{tip, tip - ahead * 8 + aside * half, tip - ahead * 8 - aside * half});
    }
    if (r.spring) {
      p.setBrush(t.sheet);
      p.setPen(QPen(t.ink, 1.5));
      p.drawEllipse(from, 3, 3);
    }
    if (r.sink) {
      p.setPen(QPen(t.ink, 2));
      p.drawLine(from - QPointF(4, 4), from + QPointF(4, 4));
      p.drawLine(from - QPointF(4, -4), from + QPointF(4, -4));
    }
  }
  p.setPen(QPen(t.ink, 2));
  for (const acre::Fall& f : falls_)
    for (const double down : {-2.5, 2.5}) {
      const QPointF at = place(f.water) + QPointF(0, down);
      p.drawLine(at - QPointF(6, 0), at + QPointF(6, 0));
    }
}

QString RiverNetwork::at(QPointF place, const MapGeometry& view) const {
  for (const acre::Fall& f : falls_)
    if ((view.toScreen(f.water, 0.5, 0.5) - place).manhattanLength() <= 9)
      return QObject::tr("Fall: water at level %1, the ground beside it %2 lower")
          .arg(look::wholeNumber(f.level), look::wholeNumber(f.high));
  for (const Reach& r : reaches_) {
    const QPointF from = view.toScreen(r.from, 0.5, 0.5);
    if ((from - place).manhattanLength() > 9) continue;
    const QString drains = QObject::tr("%1 bricks drain through it").arg(look::wholeNumber(r.area));
    if (r.acrossLake)
      return QObject::tr("Lake, level %1\n%2\nits outlet leaves for x %3 z %4")
          .arg(look::number(r.level), drains, look::wholeNumber(r.to.x), look::wholeNumber(r.to.z));
    return QObject::tr("%1, level %2, %3 cells wide\n%4%5")
        .arg(r.spring ? QObject::tr("Spring") : QObject::tr("River"),
            look::number(std::round(r.level * 10) / 10),
            look::number(std::round(r.width * 10) / 10), drains,
            r.sink ? QObject::tr("\nends here, in no water") : QString());
  }
  return {};
}

QString RiverNetwork::spoken() const {
  if (tooMany_) return {};
  return QObject::tr("%1 springs, %2 lakes and %3 falls are marked, with the rivers between them.")
      .arg(springs_)
      .arg(lakes_)
      .arg(falls_.size());
}

}  // namespace app
