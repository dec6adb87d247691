#include "app/overlay/river_network.h"

#include <cmath>

#include "app/look/look.h"
#include "water/water_stage.h"
#include "world/plan.h"

namespace app {
namespace {

using acre::Brick;
using acre::DrainAt;
using acre::Drains;

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
  } catch (const acre::Drainage::Reader::Stopped&) {
    return nullptr;
  }
  return out;
}

void RiverNetwork::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  p.setRenderHint(QPainter::Antialiasing);
  if (tooMany_) {
    p.setFont(look::mapFont());
    look::drawHaloText(p, {12, 22}, QObject::tr("Network of rivers: zoom in, it is too large."));
    return;
  }
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
      p.setPen(QPen(t.madder, 2));
      p.drawLine(from - QPointF(4, 4), from + QPointF(4, 4));
      p.drawLine(from - QPointF(4, -4), from + QPointF(4, -4));
    }
  }
}

QString RiverNetwork::at(QPointF place, const MapGeometry& view) const {
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
  return QObject::tr("%1 springs and %2 lakes are marked, with the rivers between them.")
      .arg(springs_)
      .arg(lakes_);
}

}  // namespace app
