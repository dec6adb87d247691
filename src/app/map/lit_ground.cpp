#include "app/map/lit_ground.h"

#include <algorithm>
#include <cmath>

#include "app/overlay/marks.h"
#include "climate/biomes.h"
#include "world/world.h"

namespace app {
namespace {

constexpr int kPixels = 3;  ///< Of the screen, from one sample to the next.
constexpr int kPauseMillis = 40;

}  // namespace

LitGround::LitGround(Document& document, MapView& map)
    : QObject(&map),
      document_(document),
      map_(map),
      courier_(std::make_shared<Courier<LitGround>>(this)) {
  pause_.setSingleShot(true);
  pause_.setInterval(kPauseMillis);
  connect(&pause_, &QTimer::timeout, this, &LitGround::request);
  connect(&map_, &MapView::viewChanged, this, [this] { pause_.start(); });
  connect(&document_, &Document::worldChanged, this, [this] { pause_.start(); });
}

LitGround::~LitGround() {
  courier_->close();
  stop_.request_stop();
}

void LitGround::request() {
  stop_.request_stop();
  stop_ = {};
  const MapGeometry& g = map_.geometry();
  const auto world = document_.world();
  if (!world || !world->biomes() || g.size.isEmpty()) {
    ground_ = nullptr;
    return draw();
  }
  const int64_t step = std::max<int64_t>(1, std::llround(g.cellsPerPixel * kPixels));
  const auto width = static_cast<int32_t>(
      static_cast<double>(g.size.width()) * g.cellsPerPixel / static_cast<double>(step) + 3);
  const auto height = static_cast<int32_t>(
      static_cast<double>(g.size.height()) * g.cellsPerPixel / static_cast<double>(step) + 3);
  const acre::SampleGrid grid{
      g.centre.cell.x - width / 2 * step, g.centre.cell.z - height / 2 * step, step, width, height};
  document_.engine().executor().submit(acre::Priority::Thumbnail, stop_.get_token(),
      [courier = courier_, world, grid, request = ++request_, stop = stop_.get_token()] {
        auto ground = std::make_shared<Ground>();
        ground->grid = grid;
        const auto count = static_cast<size_t>(grid.width) * static_cast<size_t>(grid.length);
        ground->biomes.resize(count);
        ground->slices.resize(count);
        ground->x.resize(count);
        ground->y.resize(count);
        std::vector<float> base(count);
        acre::Land land;
        land.biomes = ground->biomes.data();
        land.base = base.data();
        if (!world->sample(grid, land, stop)) return;
        std::vector<acre::Cell> cells(static_cast<size_t>(grid.width));
        for (int32_t j = 0; j < grid.length; ++j) {
          if (stop.stop_requested()) return;
          const auto row = static_cast<size_t>(j) * static_cast<size_t>(grid.width);
          for (int32_t i = 0; i < grid.width; ++i)
            cells[static_cast<size_t>(i)] = {grid.x + i * grid.step, grid.z + j * grid.step};
          world->columns().chartValues(grid.width, cells.data(), ground->x.data() + row,
              ground->y.data() + row, base.data() + row, acre::Accuracy::Exact);
        }
        world->biomes()->chart().slicesOf(
            world->kernels(), static_cast<int>(count), base.data(), ground->slices.data());
        courier->deliver([request, ground](LitGround& self) {
          if (request != self.request_) return;
          self.ground_ = ground;
          self.draw();
        });
      });
}

void LitGround::lightBiome(acre::BiomeIndex biome) {
  what_ = What::Biome;
  biome_ = biome;
  draw();
}

void LitGround::lightPatch(double x, double y, int slice, double half) {
  const auto world = document_.world();
  if (!world || !world->biomes()) return;
  const acre::AxisScale &ax = world->biomes()->chart().x(), &ay = world->biomes()->chart().y();
  what_ = What::Patch;
  x_ = x;
  y_ = y;
  halfX_ = (ax.high - ax.low) * half;
  halfY_ = (ay.high - ay.low) * half;
  slice_ = slice;
  draw();
}

void LitGround::clear() {
  if (what_ == What::Nothing) return;
  what_ = What::Nothing;
  draw();
}

/// Sides between samples that are lit and samples that are not, joined along rows and columns.
void LitGround::draw() {
  lit_ = 0;
  std::vector<QLineF> lines;
  if (what_ == What::Nothing || !ground_) return map_.overlays().set(Over::Lit, nullptr);
  const Ground& g = *ground_;
  const auto width = static_cast<size_t>(g.grid.width), height = static_cast<size_t>(g.grid.length);
  std::vector<uint8_t> mask(width * height);
  for (size_t k = 0; k < mask.size(); ++k) {
    mask[k] = what_ == What::Biome
                  ? g.biomes[k] == biome_
                  : g.slices[k] == slice_ && std::abs(static_cast<double>(g.x[k]) - x_) <= halfX_ &&
                        std::abs(static_cast<double>(g.y[k]) - y_) <= halfY_;
    lit_ += mask[k];
  }
  const auto step = static_cast<double>(g.grid.step);
  const auto edge = [&](size_t k) { return (static_cast<double>(k) + 0.5) * step; };
  for (size_t j = 0; j + 1 < height; ++j)
    for (size_t i = 0; i < width;) {
      const auto apart = [&](size_t at) {
        return mask[j * width + at] != mask[(j + 1) * width + at];
      };
      size_t end = i;
      while (end < width && apart(end)) ++end;
      if (end > i) lines.emplace_back(edge(i) - step, edge(j), edge(end) - step, edge(j));
      i = end + 1;
    }
  for (size_t i = 0; i + 1 < width; ++i)
    for (size_t j = 0; j < height;) {
      const auto apart = [&](size_t at) {
        return mask[at * width + i] != mask[at * width + i + 1];
      };
      size_t end = j;
      while (end < height && apart(end)) ++end;
      if (end > j) lines.emplace_back(edge(i), edge(j) - step, edge(i), edge(end) - step);
      j = end + 1;
    }
  map_.overlays().set(Over::Lit,
      std::make_shared<OutlineOverlay>(std::move(lines), acre::Cell{g.grid.x, g.grid.z}));
}

}  // namespace app

#include "moc_lit_ground.cpp"
