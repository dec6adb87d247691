#include "app/overlay/region_sites.h"

#include <cmath>

#include "app/look/look.h"
#include "climate/biomes.h"
#include "world/plan.h"

namespace app {
namespace {

/// The cell that is looked up at a place of the warped ground: p with p + shift(p) = place, by
/// steps p = place - shift(p). Where the warp folds they may not end.
std::optional<acre::Cell> groundOf(const acre::RegionGrid& grid, acre::Cell place) {
  constexpr int kMostSteps = 40;
  acre::Cell p = place;
  for (int k = 0; k < kMostSteps; ++k) {
    const auto [x, z] = grid.placeOf(p);
    const acre::Cell off{place.x - x.cell, place.z - z.cell};
    if (std::abs(off.x) <= 1 && std::abs(off.z) <= 1) return p;
    p = {p.x + off.x, p.z + off.z};
  }
  return {};
}

}  // namespace

std::shared_ptr<const MapOverlay> RegionSites::make(
    const acre::World& world, const MapGeometry& view, const std::stop_token& stop) {
  const acre::BiomeStage* biomes = planOf(world).biomes();
  if (!biomes || !biomes->hasRegions()) return nullptr;
  const acre::RegionGrid& grid = biomes->regions();
  auto out = std::make_shared<RegionSites>();
  out->size_ = biomes->borderReach();
  out->warped_ = grid.shift().on();
  const acre::Rect cells = view.cells();
  const acre::RegionId first = acre::squareOf(grid.plan(), {cells.x, cells.z});
  const acre::RegionId last =
      acre::squareOf(grid.plan(), {cells.x + cells.width, cells.z + cells.length});
  const int64_t columns = last.i - first.i + 3, rows = last.j - first.j + 3;
  out->tooMany_ =
      columns <= 0 || rows <= 0 || columns > kMost || rows > kMost || columns * rows > kMost;
  if (out->tooMany_) return out;
  for (int64_t j = first.j - 1; j <= last.j + 1; ++j)
    for (int64_t i = first.i - 1; i <= last.i + 1; ++i) {
      if (stop.stop_requested()) return nullptr;
      Site site{{i, j}, acre::siteCell(grid.plan(), {i, j}), {}};
      if (out->warped_) site.ground = groundOf(grid, site.cell);
      out->sites_.push_back(site);
    }
  out->corner_ = acre::squareCorner(grid.plan(), {first.i - 1, first.j - 1});
  return out;
}

void RegionSites::paint(QPainter& p, const MapGeometry& view) const {
  const look::Tokens& t = look::tokens();
  p.setRenderHint(QPainter::Antialiasing);
  if (tooMany_) {
    p.setFont(look::mapFont());
    look::drawHaloText(
        p, {12, 22}, QObject::tr("Squares of regions: zoom in, there are too many."));
    return;
  }
  // Squares are as wide as they are: their lines stand at multiples of the size from the corner.
  const QPointF from = view.toScreen(corner_);
  const double side = size_ / view.cellsPerPixel;
  for (const auto& [colour, width] : {std::pair(t.sheet, 2.5), std::pair(t.ink, 0.75)}) {
    p.setPen(QPen(colour, width));
    for (double x = from.x(); x <= view.size.width(); x += side)
      p.drawLine(QPointF(x, 0), QPointF(x, view.size.height()));
    for (double y = from.y(); y <= view.size.height(); y += side)
      p.drawLine(QPointF(0, y), QPointF(view.size.width(), y));
  }
  for (const Site& site : sites_) {
    const QPointF before = view.toScreen(site.cell, 0.5, 0.5);
    if (site.ground) {
      const QPointF after = view.toScreen(*site.ground, 0.5, 0.5);
      p.setPen(QPen(t.sheet, 3));
      p.drawLine(before, after);
      p.setPen(QPen(t.ink, 1));
      p.drawLine(before, after);
      p.setPen(QPen(t.sheet, 1.5));
      p.setBrush(t.ink);
      p.drawEllipse(after, 4, 4);
    }
    p.setBrush(t.sheet);
    p.setPen(QPen(t.ink, 1.5));
    p.drawEllipse(before, 3.5, 3.5);
  }
}

QString RegionSites::at(QPointF place, const MapGeometry& view) const {
  const auto near = [&](acre::Cell cell) {
    return (view.toScreen(cell, 0.5, 0.5) - place).manhattanLength() <= 8;
  };
  const auto told = [](acre::Cell cell) {
    return QObject::tr("x %1 z %2").arg(look::wholeNumber(cell.x), look::wholeNumber(cell.z));
  };
  for (const Site& site : sites_) {
    if (!near(site.cell) && !(site.ground && near(*site.ground))) continue;
    QString words =
        QObject::tr("Site of square %1, %2 at %3")
            .arg(look::wholeNumber(site.id.i), look::wholeNumber(site.id.j), told(site.cell));
    if (site.ground)
      words += QObject::tr("\nlies on the warped ground at %1").arg(told(*site.ground));
    else if (warped_)
      words += QObject::tr("\nno cell of the warped ground was found for it");
    return words;
  }
  return {};
}

QString RegionSites::spoken() const {
  return tooMany_ ? QString()
                  : QObject::tr("Squares of %1 cells and %2 sites of regions are marked.")
                        .arg(look::number(size_))
                        .arg(sites_.size());
}

}  // namespace app
