#include "app/map/tile_store.h"

#include <algorithm>
#include <mutex>
#include <optional>

#include "water/water_stage.h"
#include "world/world.h"

namespace app {
namespace {

constexpr size_t kMostTiles = 400;

/// Colours a block of samples; image pixels are transparent where nothing is assigned. Without such
/// holes the image is an opaque one, which is drawn faster.
QImage paint(const acre::Palette& palette, const acre::Samples& samples, bool& holes) {
  QImage image(samples.inner.width, samples.inner.length, QImage::Format_ARGB32_Premultiplied);
  holes = false;
  for (int32_t j = 0; j < samples.inner.length; ++j) {
    auto* row = reinterpret_cast<uint32_t*>(image.scanLine(j));
    palette.paintRow(samples, j, acre::Unassigned::Transparent, row);
    holes = holes || std::any_of(row, row + samples.inner.width, [](uint32_t p) { return p == 0; });
  }
  if (!holes) image.reinterpretAsFormat(QImage::Format_RGB32);
  return image;
}

}  // namespace

/// A palette that its first user makes: finding the range of a picture takes thousands of cells.
class TileStore::LatePalette {
 public:
  LatePalette(std::shared_ptr<const acre::World> world, const acre::Picture& picture,
      const acre::Style& style)
      : world_(std::move(world)), picture_(picture), style_(style) {}

  const acre::Palette& get() {
    std::call_once(made_, [this] { palette_.emplace(*world_, picture_, style_); });
    return *palette_;
  }

 private:
  std::shared_ptr<const acre::World> world_;
  acre::Picture picture_;
  acre::Style style_;
  std::once_flag made_;
  std::optional<acre::Palette> palette_;
};

/// A finished picture on its way to the interface thread.
struct TileStore::Job {
  uint64_t epoch;
  Kind kind;
  Key key;
  acre::SampleGrid grid;
  QImage image;
  bool holes;
};

TileStore::TileStore(acre::Engine& engine, QObject* parent)
    : QObject(parent), engine_(engine), courier_(std::make_shared<Courier<TileStore>>(this)) {}

TileStore::~TileStore() {
  courier_->close();
  stop_.request_stop();
}

void TileStore::show(std::shared_ptr<const acre::World> world, const acre::Picture& picture,
    const acre::Style& style) {
  world_ = std::move(world);
  picture_ = picture;
  palette_ = std::make_shared<LatePalette>(world_, picture_, style);
  stop_.request_stop();
  stop_ = {};
  ++epoch_;
  wanted_.clear();
  coarseAsked_ = surroundAsked_ = {};
  if (!haveGeometry_) return;
  requestCoarse(Kind::Coarse);
  requestTiles();
  requestOverviews();
}

void TileStore::look(const MapGeometry& geometry) {
  geometry_ = geometry;
  const bool first = !std::exchange(haveGeometry_, true);
  if (!world_) return;
  if (first) requestCoarse(Kind::Coarse);
  requestTiles();
  requestOverviews();
}

std::vector<TileStore::Key> TileStore::visibleTiles() const {
  const int level = geometry_.level();
  const acre::Rect cells = geometry_.cells();
  const int64_t side = int64_t{kTile} << level;
  const int64_t half = (int64_t{1} << level) / 2;  // Samples are drawn centred on their cells.
  const int64_t x0 = acre::floorDiv(cells.x - half, side);
  const int64_t z0 = acre::floorDiv(cells.z - half, side);
  const int64_t x1 = acre::floorDiv(cells.x + cells.width + half, side);
  const int64_t z1 = acre::floorDiv(cells.z + cells.length + half, side);
  std::vector<Key> keys;
  for (int64_t z = z0; z <= z1; ++z)
    for (int64_t x = x0; x <= x1; ++x) keys.push_back({level, x, z});
  // From the middle outward: that is where the eye is.
  const auto distance = [&](const Key& k) {
    const int64_t dx = 2 * k.tx - x0 - x1, dz = 2 * k.tz - z0 - z1;
    return dx * dx + dz * dz;
  };
  std::stable_sort(keys.begin(), keys.end(),
      [&](const Key& a, const Key& b) { return distance(a) < distance(b); });
  return keys;
}

void TileStore::requestCoarse(Kind kind) {
  const std::vector<Key> keys = visibleTiles();
  const auto [x0, x1] = std::minmax_element(
      keys.begin(), keys.end(), [](const Key& a, const Key& b) { return a.tx < b.tx; });
  const auto [z0, z1] = std::minmax_element(
      keys.begin(), keys.end(), [](const Key& a, const Key& b) { return a.tz < b.tz; });
  const int level = geometry_.level();
  const int64_t side = int64_t{kTile} << level;
  acre::SampleGrid grid;
  grid.step = int64_t{kCoarser} << level;
  const int64_t wide = x1->tx - x0->tx + 1, high = z1->tz - z0->tz + 1;
  grid.x = x0->tx * side;
  grid.z = z0->tz * side;
  grid.width = static_cast<int32_t>(wide * (kTile / kCoarser));
  grid.length = static_cast<int32_t>(high * (kTile / kCoarser));
  if (kind == Kind::Surround) {  // As many samples, twice as far apart, about the same middle.
    grid.x -= (wide * side / 2) & ~(2 * grid.step - 1);
    grid.z -= (high * side / 2) & ~(2 * grid.step - 1);
    grid.step *= 2;
  }
  (kind == Kind::Coarse ? coarseAsked_ : surroundAsked_) = grid;
  submit(kind, {}, grid, atOnce(grid));
}

acre::Picture TileStore::atOnce(const acre::SampleGrid& grid) const {
  acre::Picture out = picture_;
  const acre::WaterStage* water = planOf(*world_).water();
  out.beforeWater =
      water && !picture_.ofWater() && grid.step <= acre::WaterStage::kFarthestStep &&
      !water->knows({grid.x, grid.z, grid.width * grid.step, grid.length * grid.step}, grid.step);
  const bool ofThings =
      picture_.kind == acre::PictureKind::Composite || picture_.kind == acre::PictureKind::Material;
  out.beforeObjects = ofThings && world_->objectCells().any(grid.step);
  return out;
}

void TileStore::submit(
    Kind kind, const Key& key, const acre::SampleGrid& grid, const acre::Picture& picture) {
  engine_.executor().submit(
      kind == Kind::Coarse ? acre::Priority::CoarseMap : acre::Priority::SharpMap,
      stop_.get_token(),
      [courier = courier_, world = world_, palette = palette_, picture, grid, kind, key,
          epoch = epoch_, stop = stop_.get_token()] {
        const auto samples = acre::sampleWithRim(*world, picture, grid, stop);
        if (!samples) return;
        Job job{epoch, kind, key, grid, {}, false};
        job.image = paint(palette->get(), *samples, job.holes);
        courier->deliver([job = std::move(job)](TileStore& self) { self.file(job); });
      });
}

/// Asks for coarse pictures where those asked for last do not serve: the view left them, or its
/// scale is another. Whatever the next step of the wheel shows is there before the sharp tiles are.
void TileStore::requestOverviews() {
  const acre::Rect view = geometry_.cells();
  const auto serves = [](const acre::SampleGrid& grid, int64_t step, const acre::Rect& needs) {
    if (grid.width == 0 || grid.step > 2 * step || grid.step * 2 < step) return false;
    const acre::Rect ground{grid.x, grid.z, grid.width * grid.step, grid.length * grid.step};
    return acre::intersection(ground, needs) == needs;
  };
  const int64_t step = int64_t{kCoarser} << geometry_.level();
  if (!wanted_.empty() && !serves(coarseAsked_, step, view)) requestCoarse(Kind::Coarse);
  const acre::Rect more{view.x - view.width / 4, view.z - view.length / 4,
      view.width + view.width / 2, view.length + view.length / 2};
  if (!serves(surroundAsked_, 2 * step, more)) requestCoarse(Kind::Surround);
}

void TileStore::requestTiles() {
  const std::vector<Key> keys = visibleTiles();
  ++clock_;
  // Tiles that left the view before they were begun are not wanted any more; those whose rivers
  // or objects are still to come are as if they were not there.
  std::erase_if(wanted_, [&](const auto& w) {
    const bool left = std::find(keys.begin(), keys.end(), w.first) == keys.end();
    if (left && current()) tiles_.erase(w.first);
    return left;
  });
  // Rivers and objects are found after all ground is there.
  std::vector<std::pair<Key, acre::SampleGrid>> later;
  for (const Key& key : keys) {
    const auto have = tiles_.find(key);
    if (have != tiles_.end() && current()) {
      have->second.lastUse = clock_;
      continue;
    }
    if (!wanted_.try_emplace(key, true).second) continue;
    const int64_t side = int64_t{kTile} << key.level;
    const acre::SampleGrid grid{
        key.tx * side, key.tz * side, int64_t{1} << key.level, kTile, kTile};
    const acre::Picture first = atOnce(grid);
    const bool bare = first.beforeWater || first.beforeObjects;
    submit(bare ? Kind::Ground : Kind::Sharp, key, grid, first);
    if (bare) later.emplace_back(key, grid);
  }
  for (const auto& [key, grid] : later) submit(Kind::Sharp, key, grid, picture_);
  evict(keys);
}

void TileStore::evict(const std::vector<Key>& visible) {
  const auto used = engine_.budget().used();
  const bool tight = used > engine_.budget().limit() / 10 * 9;
  const size_t most = tight ? visible.size() : std::max(kMostTiles, visible.size() * 2);
  while (tiles_.size() > most) {
    const auto oldest = std::min_element(tiles_.begin(), tiles_.end(),
        [](const auto& a, const auto& b) { return a.second.lastUse < b.second.lastUse; });
    if (oldest->second.lastUse == clock_) break;
    tiles_.erase(oldest);
  }
}

void TileStore::file(const Job& job) {
  if (job.epoch != epoch_) return;
  const Coarse whole{job.image, job.holes, job.grid.x, job.grid.z, job.grid.step};
  if (job.kind == Kind::Surround) {
    surround_ = whole;
    return;  // Something else is in sight.
  }
  if (job.kind == Kind::Coarse) {
    if (!current()) {  // The new picture takes the place of the old at once.
      tiles_.clear();
      surround_ = {};
    }
    coarse_ = whole;
    shownEpoch_ = epoch_;
    emit updated();
    return;
  }
  // Ground stays wanted: its rivers are on the way.
  if (job.kind == Kind::Ground ? !wanted_.contains(job.key) : !wanted_.erase(job.key)) return;
  const bool overtook = !current();
  if (overtook) {  // A sharp tile overtook the coarse picture: the old one has had its time.
    tiles_.clear();
    coarse_ = surround_ = {};
    shownEpoch_ = epoch_;
  }
  const auto bytes = static_cast<uint64_t>(job.image.sizeInBytes());
  auto room = engine_.budget().reserve(bytes);
  if (!room) {  // Room is made by what is out of view; failing that the coarse picture has to do.
    std::erase_if(tiles_, [&](const auto& t) { return t.second.lastUse != clock_; });
    room = engine_.budget().reserve(bytes);
  }
  if (room) tiles_[job.key] = {job.image, job.holes, clock_, std::move(*room)};
  if (overtook || wanted_.empty())
    emit updated();
  else
    emit arrived(job.key);
  if (wanted_.empty()) emit finished();
}

}  // namespace app

#include "moc_tile_store.cpp"
