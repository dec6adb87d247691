#include "app/overlay/tunnel_lattice.h"

#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "app/overlay/cave_lines.h"
#include "cave/caves.h"
#include "recipe/cave_recipe.h"
#include "world/plan.h"

namespace app {
namespace {

using Point = acre::TunnelStage::LatticePoint;

bool closed(const Point& point) {
  return point.cost >= acre::kMostCost;
}

/// 0 for the cheapest, 1 for points four times as dear and more.
double dearness(const Point& point) {
  const double times = static_cast<double>(point.cost) / acre::kPlainCost;
  return std::clamp((times - 1) / 3, 0.0, 1.0);
}

/// How large points are drawn that stand so many pixels apart.
double sizeAt(double apart) {
  return std::clamp(apart * 0.3, 1.0, 3.5);
}

void paintPoint(QPainter& p, QPointF at, const Point& point, double size) {
  const look::Tokens& t = look::tokens();
  if (closed(point)) {
    p.setPen(QPen(t.sheet, size > 2 ? 2.5 : 1));
    for (int pass = 0; pass < 2; ++pass) {
      p.drawLine(at + QPointF(-size, -size) * 0.7, at + QPointF(size, size) * 0.7);
      p.drawLine(at + QPointF(-size, size) * 0.7, at + QPointF(size, -size) * 0.7);
      p.setPen(QPen(t.ink, 1));
    }
    return;
  }
  const auto mix = [share = dearness(point)](int from, int to) {
    return static_cast<int>(std::lround(from + (to - from) * share));
  };
  p.setPen(size > 2 ? QPen(t.ink, 0.75) : QPen(Qt::NoPen));
  p.setBrush(QColor(mix(t.sheet.red(), t.ink.red()), mix(t.sheet.green(), t.ink.green()),
      mix(t.sheet.blue(), t.ink.blue())));
  p.drawEllipse(at, size, size);
}

QString told(const Point& point, const acre::TunnelSystem& system) {
  const QString place =
      QObject::tr("Lattice point of %1 at y %2")
          .arg(QString::fromStdString(system.name()),
              look::wholeNumber(system.y + static_cast<int64_t>(std::floor(point.place.y))));
  if (closed(point)) return QObject::tr("%1: closed, a bore would break out").arg(place);
  return QObject::tr("%1: %2 times the cheapest")
      .arg(place, look::figure(static_cast<double>(point.cost) / acre::kPlainCost));
}

QPointF onMap(const Point& point, const acre::TunnelSystem& system, const MapGeometry& view) {
  return view.toScreen({system.x, system.z}) +
         QPointF(static_cast<double>(point.place.x), static_cast<double>(point.place.z)) /
             view.cellsPerPixel;
}

/// Where a point stands on the cut; nothing when it is not near it.
std::optional<QPointF> onCut(
    const Point& point, const acre::TunnelSystem& system, const CutGeometry& cut) {
  const auto [along, aside] = cut.footOf(
      {system.x, system.z}, static_cast<double>(point.place.x), static_cast<double>(point.place.z));
  if (std::abs(aside) > CaveLines::kNearCut || along < 0 || along > cut.length()) return {};
  return cut.toScreen(along, static_cast<double>(system.y) + static_cast<double>(point.place.y));
}

}  // namespace

std::shared_ptr<const MapOverlay> TunnelLattice::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  const acre::CaveStage* caves = planOf(world).caves();
  if (!caves || !planOf(world).blocks()) return nullptr;
  auto out = std::make_shared<TunnelLattice>();
  const acre::Rect cells = view.cells();
  for (const auto& part : caves->tunnels()) {
    const auto squares = static_cast<double>(cells.width) * static_cast<double>(cells.length) /
                         std::pow(static_cast<double>(part.stage->spacing()), 2);
    out->tooMany_ = out->tooMany_ || squares > 8 * kMostSystems;
    if (out->tooMany_) break;
    std::vector<acre::TunnelHandle> found;
    if (!part.stage->systemsNear(cells, found, stop)) return nullptr;
    for (const acre::TunnelHandle& system : found) {
      if (stop.stop_requested()) return nullptr;
      out->systems_.push_back({system, part.stage->latticeOf(*system),
          planOf(world).recipe().caves->tunnels[static_cast<size_t>(part.index)].step});
      auto& points = out->systems_.back().points;
      std::stable_sort(points.begin(), points.end(),
          [](const Point& a, const Point& b) { return a.cost > b.cost; });
    }
  }
  if (out->systems_.size() > kMostSystems) out->tooMany_ = true;
  if (out->tooMany_) out->systems_.clear();
  return out;
}

void TunnelLattice::paint(QPainter& p, const MapGeometry& view) const {
  p.setRenderHint(QPainter::Antialiasing);
  if (tooMany_) {
    p.setFont(look::mapFont());
    look::drawHaloText(
        p, {12, 40}, QObject::tr("Lattices of tunnels: zoom in, there are too many."));
    return;
  }
  const QRectF seen = QRectF(QPointF(), view.size).adjusted(-4, -4, 4, 4);
  for (const System& one : systems_)
    for (const Point& point : one.points)
      if (const QPointF at = onMap(point, *one.system, view); seen.contains(at))
        paintPoint(p, at, point, sizeAt(one.step / view.cellsPerPixel));
}

void TunnelLattice::paintCut(QPainter& p, const CutGeometry& cut) const {
  p.setRenderHint(QPainter::Antialiasing);
  for (const System& one : systems_)
    for (const Point& point : one.points)
      if (const auto at = onCut(point, *one.system, cut))
        paintPoint(p, *at, point, sizeAt(one.step * std::abs(cut.x1 - cut.x0) / cut.length()));
}

QString TunnelLattice::at(QPointF place, const MapGeometry& view) const {
  for (const System& one : systems_)
    for (auto it = one.points.rbegin(); it != one.points.rend(); ++it)
      if ((onMap(*it, *one.system, view) - place).manhattanLength() <= 5)
        return told(*it, *one.system);
  return {};
}

QString TunnelLattice::atCut(QPointF place, const CutGeometry& cut) const {
  for (const System& one : systems_)
    for (auto it = one.points.rbegin(); it != one.points.rend(); ++it)
      if (const auto at = onCut(*it, *one.system, cut); at && (*at - place).manhattanLength() <= 5)
        return told(*it, *one.system);
  return {};
}

QString TunnelLattice::spoken() const {
  return systems_.empty()
             ? QString()
             : QObject::tr("Lattice points of %1 tunnel systems are marked.").arg(systems_.size());
}

}  // namespace app
