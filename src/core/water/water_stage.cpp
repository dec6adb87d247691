#include "water/water_stage.h"

#include <algorithm>
#include <cmath>

#include "base/parallel.h"
#include "recipe/look.h"
#include "water/water_beds.h"

namespace acre {
namespace {

constexpr float kWidestValley = kFarShore;

}  // namespace

uint64_t WaterStage::CourseTile::bytes() const {
  uint64_t sum = sizeof *this + 64;
  for (const CoursePiece& p : pieces) sum += sizeof p + p.points.size() * sizeof(CoursePoint) + 16;
  return sum;
}

Digest WaterStage::keyOf(const DrainageInputs& inputs, const Digest& land) {
  Rivers shape = inputs.rivers;
  // What it is made of changes no course.
  for (std::string* material : {&shape.water, &shape.bed, &shape.bank, &shape.wet})
    material->clear();
  shape.bankReach = shape.wetReach = 0;
  if (!shape.courses.any()) shape.courses = {};
  DigestWriter key;
  key.text("water").u32(1).u64(inputs.seed).digest(land).f32(inputs.seaLevel).u8(inputs.blocks);
  writeKey(key, shape);
  if (shape.courses.any())
    key.i64(inputs.bounds.x)
        .i64(inputs.bounds.z)
        .i64(inputs.bounds.width)
        .i64(inputs.bounds.length);
  if (shape.courses.any() && inputs.obstacles) key.digest(inputs.obstacles->key());
  return key.finish();
}

Result<std::shared_ptr<const WaterStage>> WaterStage::compile(
    const DrainageInputs& inputs, const MemoLimit& limit) {
  // What is remembered of each step has a third of what one part may take, samples twice and ground
  // four times that, on which all others stand: at most seven times the limit for each of the three
  // networks, and all of it within the budget.
  constexpr uint64_t kParts = 3;
  const MemoLimit memo{limit.bytes / kParts, limit.budget};
  auto stage = make(inputs, memo);
  if (!stage) return stage.error();
  Rivers rivers = inputs.rivers;
  rivers.courses = {};
  for (const int k : {0, 1}) {
    const DrainageInputs of{rivers, inputs.land, inputs.seaLevel, inputs.blocks, inputs.seed,
        inputs.bounds, nullptr, int64_t{2} << k};
    auto coarser = make(of, memo);
    if (!coarser) return coarser.error();
    (*stage)->coarser_[k] = *coarser;
  }
  return std::shared_ptr<const WaterStage>(*stage);
}

Result<std::shared_ptr<WaterStage>> WaterStage::make(
    const DrainageInputs& inputs, const MemoLimit& memo) {
  std::shared_ptr<WaterStage> stage(new WaterStage(inputs, memo));
  auto lines = Courses::compile(stage->drainage_, inputs.rivers.meander, "/rivers/meander");
  if (!lines) return lines.error();
  stage->lines_ = *lines;
  auto ways = CourseWays::compile(inputs, stage->drainage_.seed(), stage->drainage_.seaTop(), memo);
  if (!ways) return ways.error();
  stage->ways_ = *ways;
  stage->courses_ = std::make_unique<Memo<BrickTile, CourseTile>>(memo);
  stage->wayPieces_ = std::make_unique<Memo<CourseWays::At, CourseTile>>(memo);
  stage->remembers_ = memo.bytes > 0;
  stage->seaLevel_ = inputs.blocks ? std::ceil(inputs.seaLevel) : inputs.seaLevel;
  stage->deepest_ = static_cast<float>(inputs.rivers.depth);
  stage->valley_ = static_cast<float>(inputs.rivers.valley);
  stage->sides_ = static_cast<float>(inputs.rivers.sides);
  return stage;
}

uint64_t WaterStage::bytes() const {
  uint64_t sum = drainage_.bytes() + beds_.bytes() + courses_->bytes() + wayPieces_->bytes() +
                 (ways_ ? ways_->bytes() : 0);
  for (const auto& coarser : coarser_)
    if (coarser) sum += coarser->bytes();
  return sum;
}

const WaterStage& WaterStage::over(int64_t step) const {
  return step <= kExactStep ? *this : *coarser_[step <= kFarthestStep / 2 ? 0 : 1];
}

double WaterStage::narrowest() const {
  return cellsOf(drainage_.widthOf(drainage_.spring()) * drainage_.land().scale());
}

float WaterStage::valleyOf(float radius) const {
  if (drainage_.land().scale() > 1) return 0;  // An indication has none.
  return std::min(kWidestValley, 6.0f + valley_ * radius);
}

// ---- tiles -------------------------------------------------------------------------------------

bool WaterStage::knows(const Rect& cells, int64_t step) const {
  const WaterStage& told = over(step);
  const int64_t scale = told.drainage_.land().scale();
  const auto tileOf = [scale](int64_t x, int64_t z) {
    return BrickTile{floorDiv(x, BrickTile::kSide * kBrickWidth * scale),
        floorDiv(z, BrickTile::kSide * kBrickLength * scale)};
  };
  const BrickTile first = tileOf(cells.x, cells.z);
  const BrickTile last = tileOf(cells.x + cells.width - 1, cells.z + cells.length - 1);
  for (int64_t j = first.tj; j <= last.tj; ++j)
    for (int64_t i = first.ti; i <= last.ti; ++i)
      if (!told.beds_.has({i, j})) return false;
  return true;
}

/// Reader::Stopped is thrown on.
std::shared_ptr<const WaterStage::CourseTile> WaterStage::courses(
    BrickTile at, Drainage::Reader& net, const std::stop_token& stop) const {
  return courses_->get(at, stop,
      [&] { return std::make_shared<const CourseTile>(CourseTile{lines_->piecesOf(net, at)}); });
}

std::optional<std::vector<CoursePiece>> WaterStage::coursesOf(
    Brick b, const std::stop_token& stop) const {
  try {
    Drainage::Reader net(drainage_, stop);
    const auto tile = courses(BrickTile::of(b), net, stop);
    if (!tile) return {};
    std::vector<CoursePiece> out;
    for (const CoursePiece& piece : tile->pieces)
      if (piece.brick == b) out.push_back(piece);
    return out;
  } catch (const Drainage::Reader::Stopped&) {
    return {};
  }
}

std::shared_ptr<const WaterStage::CourseTile> WaterStage::courses(
    CourseWays::At at, const std::stop_token& stop) const {
  return wayPieces_->get(at, stop, [&]() -> std::shared_ptr<const CourseTile> {
    const auto region = ways_->region(at, stop);
    if (!region) return nullptr;
    return std::make_shared<const CourseTile>(
        CourseTile{lines_->piecesOf(*region, ways_->radius(), ways_->exact())});
  });
}

std::optional<std::vector<CoursePiece>> WaterStage::waysOf(
    CourseWays::At region, const std::stop_token& stop) const {
  const auto tile = courses(region, stop);
  if (!tile) return {};
  return tile->pieces;
}

std::shared_ptr<const WaterStage::BedTile> WaterStage::bed(BrickTile at, Readers& readers) const {
  return beds_.get(at, readers.stop, [&]() -> std::shared_ptr<const BedTile> {
    try {
      return std::make_shared<const BedTile>(makeBed(at, readers));
    } catch (const Drainage::Reader::Stopped&) {
      return nullptr;
    }
  });
}

/// Adds what of a piece may reach into the cells of a tile; owner: what its cells are told.
void WaterStage::lay(
    const CoursePiece& piece, Brick owner, bool course, const Rect& cells, BedTile& tile) const {
  const Cell m = middleOf(piece.brick);
  BedPiece p{owner, course, static_cast<uint32_t>(tile.points.size()),
      static_cast<uint32_t>(piece.points.size()), 0, INT32_MAX, INT32_MAX, INT32_MIN, INT32_MIN};
  for (const CoursePoint& c : piece.points) {
    const auto fine = [](int64_t cell, int64_t grains) {
      return static_cast<int32_t>((cell * kGrain + grains + kFine / 2) >> 4);
    };
    const int32_t x = fine(m.x - cells.x, c.x), z = fine(m.z - cells.z, c.z);
    const float radius = static_cast<float>(c.radius) / static_cast<float>(kGrain);
    tile.points.push_back({static_cast<float>(x), static_cast<float>(z), radius,
        static_cast<float>(c.level) / static_cast<float>(kGrain)});
    p.reach = std::max(p.reach, radius + valleyOf(radius));
    p.x0 = std::min(p.x0, x);
    p.x1 = std::max(p.x1, x);
    p.z0 = std::min(p.z0, z);
    p.z1 = std::max(p.z1, z);
  }
  const int32_t margin = static_cast<int32_t>(p.reach) + 2;
  const auto toCells = [](int32_t v) { return static_cast<int32_t>(floorDiv(v, kFine)); };
  p.x0 = toCells(p.x0) - margin;
  p.z0 = toCells(p.z0) - margin;
  p.x1 = toCells(p.x1) + margin;
  p.z1 = toCells(p.z1) + margin;
  if (p.x1 < 0 || p.z1 < 0 || p.x0 >= cells.width || p.z0 >= cells.length)
    tile.points.resize(p.first);
  else
    tile.pieces.push_back(p);
}

WaterStage::BedTile WaterStage::makeBed(BrickTile at, Readers& readers) const {
  const std::stop_token& stop = readers.stop;
  std::array<std::shared_ptr<const CourseTile>, size_t{kTilesAcross} * kTilesAcross> around;
  Drainage::Reader& net = readers.own();
  const auto gather = [&](int32_t n, Drainage::Reader& reader) {
    const BrickTile from{
        at.ti + n % kTilesAcross - kFarTiles, at.tj + n / kTilesAcross - kFarTiles};
    around[static_cast<size_t>(n)] = courses(from, reader, stop);
  };
  if (remembers_) {
    parallelForAlone(kTilesAcross, [&](int32_t row) {
      try {
        Drainage::Reader& own = readers.of(row);
        for (int32_t n = row * kTilesAcross; n < (row + 1) * kTilesAcross; ++n) gather(n, own);
      } catch (const Drainage::Reader::Stopped&) {
        return;  // Told below: a body must not throw.
      }
    });
  } else {  // Each would find out by itself what all of them ask.
    for (int32_t n = 0; n < kTilesAcross * kTilesAcross; ++n) gather(n, net);
  }
  const Rect cells = at.cells();
  BedTile tile;
  for (const auto& courses : around) {
    if (!courses) throw Drainage::Reader::Stopped();
    for (const CoursePiece& piece : courses->pieces) lay(piece, piece.brick, false, cells, tile);
  }
  // Pieces in the order of their bricks, whatever tile they came from; then as they were made.
  std::stable_sort(
      tile.pieces.begin(), tile.pieces.end(), [](const BedPiece& a, const BedPiece& b) {
        return std::pair(a.brick.j, a.brick.i) < std::pair(b.brick.j, b.brick.i);
      });
  if (ways_) {                       // After all others, by regions.
    constexpr int64_t kAside = 128;  // More than a way and its valley reach beyond its region.
    for (const CourseWays::At region : ways_->regionsIn({cells.x - kAside, cells.z - kAside,
             cells.width + 2 * kAside, cells.length + 2 * kAside})) {
      const auto ways = courses(region, stop);
      if (!ways) throw Drainage::Reader::Stopped();
      for (const CoursePiece& piece : ways->pieces)
        lay(piece, {region.i, region.j}, true, cells, tile);
    }
  }
  const auto lakeOf = [&](Brick b) {
    const Drainage::Reader::LevelAt level = net.level(b);
    return level.lake ? static_cast<int32_t>(floorDiv(level.key.level, kGrain)) : kNoLake;
  };
  for (int j = 0; j < BrickTile::kSide; ++j)
    for (int i = 0; i < BedTile::kWide; ++i) {
      const Brick b{at.ti * BrickTile::kSide + i - 1, at.tj * BrickTile::kSide + j};
      const auto k = static_cast<size_t>(j * BedTile::kWide + i);
      tile.lake[k] = tile.about[k] = lakeOf(b);
      tile.pit[k] = net.level(b).key.brick;
      for (int side = 0; side < kBrickSides; ++side)
        tile.about[k] = std::max(tile.about[k], lakeOf(besideBrick(b, side)));
      tile.lakes = tile.lakes || tile.about[k] != kNoLake;
    }
  return tile;
}

}  // namespace acre
