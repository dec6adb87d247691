#include "app/window/before.h"

#include <cmath>

#include "app/look/look.h"
#include "world/world.h"

namespace app {
namespace {

/// What differs between two worlds over a grid.
struct Difference {
  double cells = 0;  ///< Share of cells that are not the same.
  double land = 0;   ///< Percentage points that the share of land grew by.
};

std::optional<Difference> differenceOf(
    const acre::World& before, const acre::World& now, const acre::SampleGrid& grid) {
  const size_t count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
  std::vector<float> heights[2];
  std::vector<acre::MaterialIndex> materials[2];
  const acre::World* worlds[] = {&before, &now};
  double land[2] = {};
  for (int w = 0; w < 2; ++w) {
    heights[w].resize(count);
    materials[w].resize(count);
    if (!worlds[w]->sample(grid, heights[w].data(), materials[w].data())) return {};
    for (const float h : heights[w]) land[w] += static_cast<double>(h) >= worlds[w]->seaLevel();
  }
  size_t differ = 0;
  for (size_t i = 0; i < count; ++i)
    differ += heights[0][i] != heights[1][i] || before.catalogue().materialId(materials[0][i]) !=
                                                    now.catalogue().materialId(materials[1][i]);
  const auto n = static_cast<double>(count);
  return Difference{static_cast<double>(differ) / n, (land[1] - land[0]) / n * 100};
}

}  // namespace

Before::Before(Document& document, MapView& map)
    : QObject(&map),
      document_(document),
      map_(map),
      courier_(std::make_shared<Courier<Before>>(this)) {}

Before::~Before() {
  courier_->close();
}

void Before::show(bool held) {
  if (held == shown_) return;
  if (held && !document_.before())
    return emit refused(tr("Nothing was changed yet: there is no before."));
  shown_ = held;
  ++request_;
  if (!held) return emit ended();
  emit said(tr("Before the last change"));
  // Over the view, at every sample of a grid of about 20,000.
  constexpr int kColumns = 180, kRows = 110;
  const MapGeometry g = map_.geometry();
  const auto step = std::max<int64_t>(1, std::llround(g.size.width() * g.cellsPerPixel / kColumns));
  const acre::SampleGrid grid{g.centre.cell.x - kColumns / 2 * step,
      g.centre.cell.z - kRows / 2 * step, step, kColumns, kRows};
  document_.engine().executor().submit(acre::Priority::CoarseMap,
      [courier = courier_, &engine = document_.engine(), recipe = *document_.before(),
          now = document_.world(), grid, request = request_] {
        const auto before = engine.compile(recipe);
        if (!before) {  // A picture that it read may have gone.
          courier->deliver([reason = QString::fromStdString(before.error().text())](
                               Before& self) { emit self.refused(reason); });
          return;
        }
        courier->deliver([world = *before, request](Before& self) {
          if (request != self.request_) return;
          self.map_.show(world, self.map_.picture(), self.map_.scale());
          self.map_.setEmptyNote({});
        });
        const auto found = differenceOf(**before, *now, grid);
        if (!found) return;
        courier->deliver([found = *found, request](Before& self) {
          if (request != self.request_) return;
          emit self.said(
              tr("Before the last change: %1 of the view's cells differ, land %2%3 "
                 "points")
                  .arg(look::percent(found.cells),
                      found.land < 0 ? QStringLiteral("−") : QStringLiteral("+"))
                  .arg(std::abs(found.land), 0, 'f', 1));
        });
      });
}

}  // namespace app

#include "moc_before.cpp"
