#include "app/overlay/border_crossers.h"

#include <map>
#include <set>

#include "app/look/look.h"
#include "world/world.h"

namespace app {

std::shared_ptr<const MapOverlay> BorderCrossers::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  if (!world.objectCells().any() || view.cellsPerPixel > kCoarsest) return nullptr;
  const acre::Rect seen = view.cells();
  const acre::WorldPlan& plan = planOf(world);
  const auto objects = world.objectCells().reaching(seen, stop);
  if (!objects) return nullptr;
  // All of those that reach into the view, beyond its rim as well.
  const auto claims =
      world.objectCells().claims(acre::grown(seen, 2 * world.objectCells().reach()), stop);
  if (!claims) return nullptr;
  using Id = std::pair<uint16_t, uint64_t>;
  struct Reach {
    std::set<std::pair<int64_t, int64_t>> cells;
    std::set<acre::ChunkPos> chunks;
  };
  std::map<Id, Reach> reaches;
  for (const acre::PlacedObject& one : *objects) reaches[{one.kind, one.id}];
  for (const acre::CellClaim& claim : *claims) {
    const auto at = reaches.find({claim.kind, claim.id});
    if (at == reaches.end()) continue;
    at->second.cells.insert({claim.cell.x, claim.cell.z});
    acre::ChunkPos pos = plan.layout().chunkOf(claim.cell);
    if (plan.layout().blocks()) pos.cy = plan.layout().chunkOfLevel(claim.y, 0);
    at->second.chunks.insert(pos);
  }
  auto out = std::make_shared<BorderCrossers>();
  out->all_ = objects->size();
  for (const acre::PlacedObject& one : *objects) {
    const Reach& reach = reaches[{one.kind, one.id}];
    if (reach.chunks.size() < 2) continue;
    std::vector<QLineF> outline;
    for (const auto& [x, z] : reach.cells) {
      const QPointF at(static_cast<double>(x - one.cell.x), static_cast<double>(z - one.cell.z));
      const auto free = [&](int64_t dx, int64_t dz) {
        return !reach.cells.contains({x + dx, z + dz});
      };
      if (free(0, -1)) outline.emplace_back(at, at + QPointF(1, 0));
      if (free(0, 1)) outline.emplace_back(at + QPointF(0, 1), at + QPointF(1, 1));
      if (free(-1, 0)) outline.emplace_back(at, at + QPointF(0, 1));
      if (free(1, 0)) outline.emplace_back(at + QPointF(1, 0), at + QPointF(1, 1));
    }
    out->list_.push_back({one.cell, QString::fromStdString(titleOf(plan.recipe(), one)),
        std::move(outline), reach.cells, reach.chunks.size()});
  }
  return out;
}

void BorderCrossers::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  const double scale = 1 / view.cellsPerPixel;
  p.setRenderHint(QPainter::Antialiasing);
  for (const Crosser& one : list_) {
    QTransform to;
    const QPointF at = view.toScreen(one.cell, 0, 0);
    to.translate(at.x(), at.y());
    to.scale(scale, scale);
    QVector<QLineF> outline;
    for (const QLineF& line : one.outline) outline.push_back(to.map(line));
    p.setPen(QPen(t.sheet, 3.6, Qt::SolidLine, Qt::RoundCap));
    p.drawLines(outline);
    p.setPen(QPen(t.ink, 1.6, Qt::SolidLine, Qt::RoundCap));
    p.drawLines(outline);
  }
  p.setFont(look::mapFont());
  p.setPen(t.ink);
  look::drawHaloText(p, {12, view.size.height() - 44.0}, spoken());
}

QString BorderCrossers::at(QPointF place, const MapGeometry& view) const {
  const acre::Cell under = view.toWorld(place).cell;
  for (const Crosser& one : list_)
    if (one.cells.contains({under.x, under.z}))
      return QObject::tr("%1 lies in %2 chunks").arg(one.name).arg(one.chunks);
  return {};
}

QString BorderCrossers::spoken() const {
  return QObject::tr("%1 of %2 objects reach over the border of a chunk.")
      .arg(look::wholeNumber(static_cast<qint64>(list_.size())),
          look::wholeNumber(static_cast<qint64>(all_)));
}

}  // namespace app
