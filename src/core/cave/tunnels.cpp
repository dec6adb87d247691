#include "cave/tunnels.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/draws.h"
#include "field/compiler.h"
#include "recipe/cave_recipe.h"
#include "recipe/look.h"

namespace acre {
namespace {

constexpr uint64_t kTunnelStage = 0x54756E6E656C73;  // "Tunnels"
constexpr uint64_t kAttempts = 4;                    // To lay a passage.
constexpr uint64_t kAttemptDraws = 1000;             // From those of one attempt to the next's.
constexpr uint64_t kPassageDraws = 8000;             // And from one arm to the next.
constexpr double kWallWidth = 6;                     // Feature width of the walls, in cells.

/// Draws of one system, by what they are for.
enum Draw : uint64_t {
  kPresent = 1,
  kSiteX,
  kSiteZ,
  kDepth,
  kHeading,
  kHeading2,
  kEnd,
  kJunction,
  kArmSide,
  kArmEnd,
  kOwnX,
  kOwnZ,
  kOwnHeading,
  kOwnHeading2,
  kOwnStart,
  kOwnEnd,
  kMouth
};

}  // namespace

uint64_t TunnelSystem::bytes() const {
  uint64_t sum = sizeof(TunnelSystem) + passages.size() * sizeof(Passage);
  for (const Passage& passage : passages)
    sum += passage.points.size() * sizeof(BorePoint) + passage.lattice.size() * sizeof(uint32_t);
  return sum + 64;
}

std::string TunnelSystem::name() const {
  return fmt::format("S{},{}", squareX, squareZ);
}

Digest TunnelStage::keyOf(const TunnelInputs& inputs, const Digest& land) {
  Tunnels shape = inputs.tunnels;
  if (!shape.water.empty()) shape.water = "any";  // Which water it is changes no passage.
  DigestWriter key;
  key.text("tunnels").u32(1).u64(inputs.seed).digest(land);
  writeKey(key, shape);
  key.i64(inputs.vertical.min).i64(inputs.vertical.extent);
  key.u8(inputs.plane).u8(inputs.columns).u8(inputs.sea).f32(inputs.seaLevel);
  key.f32(inputs.cover).f32(inputs.overhang);
  return key.finish();
}

Result<std::shared_ptr<const TunnelStage>> TunnelStage::compile(
    const TunnelInputs& inputs, const Kernels& kernels, MemoLimit memo, const std::string& where) {
  auto stage = std::make_shared<TunnelStage>();
  const Tunnels& t = inputs.tunnels;
  stage->tunnels_ = t;
  stage->land_ = inputs.land;
  stage->vertical_ = inputs.vertical;
  stage->plane_ = inputs.plane;
  stage->columns_ = inputs.columns;
  stage->sea_ = inputs.sea;
  stage->wet_ = !t.water.empty() && t.flooded > 0;
  stage->seaLevel_ = inputs.seaLevel;
  stage->cover_ = inputs.cover;
  stage->overhang_ = inputs.overhang;
  stage->seed_ = combine(combine(inputs.seed, kTunnelStage), hashText(t.id));
  stage->spacing_ = static_cast<int64_t>(t.spacing);
  stage->reach_ = static_cast<int64_t>(tunnelReach(t));
  stage->rough_ = static_cast<float>(t.rough);
  stage->widest_ = static_cast<float>(t.bore * (1 + t.boreVary));
  NoiseSource walls;
  walls.fractal = Fractal::Single;
  walls.width = kWallWidth;
  auto plan = compileNoise(walls, {}, combine(stage->seed_, 1), 3, where);
  if (!plan) return plan.error();
  stage->walls_ = std::move(*plan);
  stage->kernels_ = &kernels;
  stage->memo_ = std::make_unique<Memo<SquareKey, Square>>(memo);
  return std::shared_ptr<const TunnelStage>(std::move(stage));
}

// ---- making one system -------------------------------------------------------------------------

/// The lattice of one system and what its points cost.
struct TunnelStage::Maker {
  struct Heading {
    float x, z;
  };
  /// A direction from two draws.
  static Heading headingOf(uint64_t a, uint64_t b, bool plane) {
    const float x = signedUnitDraw(a), z = plane ? 0.0f : signedUnitDraw(b);
    const float length = std::sqrt(x * x + z * z);
    if (length < 0.05f) return {1, 0};
    return {x / length, z / length};
  }

  const TunnelStage& stage;
  const Tunnels& t = stage.tunnels_;
  TunnelSystem& system;
  uint64_t key;
  std::stop_token stop;
  LatticeBox box;
  std::vector<BorePoint> points;
  std::vector<uint32_t> costs;

  Maker(const TunnelStage& of, TunnelSystem& to, uint64_t seed, const std::stop_token& token)
      : stage(of), system(to), key(seed), stop(token) {
    box = {2 * t.side + 1, 2 * t.up + 1, of.plane_ ? 1 : 2 * t.side + 1};
  }

  uint64_t draw(uint64_t what) const { return combine(key, what); }
  uint32_t middle() const { return box.index(t.side, t.up, box.nz / 2); }

  /// Where the lattice points stand, and what they cost.
  void layOut() {
    const auto step = static_cast<float>(t.step);
    const float shift = static_cast<float>(t.shift) * step * 0.5f;
    const auto bore = static_cast<float>(t.bore), vary = static_cast<float>(t.boreVary);
    std::vector<Cell> cells;
    for (int32_t k = 0; k < box.nz; ++k)
      for (int32_t i = 0; i < box.nx; ++i) {
        const float x = static_cast<float>(i - t.side) * step;
        const float z = static_cast<float>(k - box.nz / 2) * step;
        cells.push_back({system.x + static_cast<int64_t>(std::floor(x)),
            system.z + static_cast<int64_t>(std::floor(z))});
      }
    const std::vector<float> heights = stage.land_->heightsOf(cells);
    points.resize(box.count());
    costs.resize(box.count());
    for (uint32_t n = 0; n < box.count(); ++n) {
      const uint64_t own = combine(draw(64), n);
      const auto stray = [&](uint64_t axis) { return signedUnitDraw(combine(own, axis)) * shift; };
      const bool fixed = n == middle();
      BorePoint& p = points[n];
      p.x = static_cast<float>(box.x(n) - t.side) * step + 0.5f + (fixed ? 0.0f : stray(1));
      p.y = static_cast<float>(box.y(n) - t.up) * step + 0.5f + (fixed ? 0.0f : stray(2));
      p.z = stage.plane_
                ? 0.5f
                : static_cast<float>(box.z(n) - t.side) * step + 0.5f + (fixed ? 0.0f : stray(3));
      p.radius = bore * (1.0f + vary * signedUnitDraw(combine(own, 4)));
      const float dear = static_cast<float>(t.noise) * 256.0f * unitDraw(combine(own, 5));
      costs[n] = kPlainCost + static_cast<uint32_t>(dear);
      const float high =
          heights[n % (static_cast<uint32_t>(box.nx) * static_cast<uint32_t>(box.nz))];
      if (blocked(p, high)) costs[n] = kMostCost;
    }
  }

  /// A passage here would break the surface, the bed of the sea or the bottom of the world.
  bool blocked(const BorePoint& p, float height) const {
    const float y = static_cast<float>(system.y) + p.y;
    const float top = y + stage.widest_ * (1.0f + stage.rough_) + 1.0f;
    const float bottom = y - stage.widest_ * (1.0f + stage.rough_) - 1.0f;
    // Overhangs may open a passage, but not let in the sea.
    const float over = stage.sea_ && bottom < stage.seaLevel_ ? stage.overhang_ : 0.0f;
    return top + stage.cover_ + over > height || bottom < static_cast<float>(stage.vertical_.min);
  }

  /// The lattice point nearest to a place: so many cells from the site along x and z, so many
  /// levels above the lowest.
  uint32_t pointAt(float x, float z, int32_t level) const {
    const auto step = static_cast<float>(t.step);
    const auto index = [&](float v, int32_t count) {
      const auto at = static_cast<int32_t>(std::floor(v / step + 0.5f)) + count / 2;
      return std::clamp(at, 0, count - 1);
    };
    return box.index(index(x, box.nx), level, stage.plane_ ? 0 : index(z, box.nz));
  }

  float apart2(uint32_t a, uint32_t b) const {
    const float x = points[a].x - points[b].x, y = points[a].y - points[b].y,
                z = points[a].z - points[b].z;
    return (x * x + y * y) + z * z;
  }

  /// Costs with everything dear that is nearer than the gap to what is there already; not near the
  /// point that a passage leaves from.
  std::vector<uint32_t> keepingOff(const uint32_t* from) const {
    const auto gap = static_cast<float>(t.gap);
    std::vector<uint32_t> out = costs;
    for (const Passage& passage : system.passages)
      for (const uint32_t taken : passage.lattice)
        for (uint32_t n = 0; n < box.count(); ++n)
          if (apart2(n, taken) < gap * gap && !(from && apart2(n, *from) < gap * gap))
            out[n] = kMostCost;
    return out;
  }

  enum class Added { Yes, No, Stopped };
  /// A passage, unless it would be a point or run through what is closed to it.
  Added add(PassageKind kind, const std::vector<uint32_t>& prices, uint32_t from, uint32_t to) {
    if (from == to || prices[from] == kMostCost || prices[to] == kMostCost) return Added::No;
    std::vector<uint32_t> path = cheapestPath(box, prices, from, to, stop);
    if (path.empty()) return Added::Stopped;
    for (const uint32_t n : path)
      if (prices[n] == kMostCost) return Added::No;
    Passage& passage = system.passages.emplace_back();
    passage.kind = kind;
    for (const uint32_t n : path) passage.points.push_back(points[n]);
    passage.lattice = std::move(path);
    return Added::Yes;
  }
  /// Draws and tries ends of the passage with a number among its like, until it is there. False
  /// when stopped.
  template <class Try>
  static bool tryUntil(int number, Try&& once) {
    const uint64_t first = static_cast<uint64_t>(number) * kPassageDraws;
    for (uint64_t attempt = 0; attempt < kAttempts; ++attempt)
      if (const Added added = once(first + attempt * kAttemptDraws); added != Added::No)
        return added == Added::Yes;
    return true;
  }
  int32_t lower(uint64_t what) const {
    return static_cast<int32_t>(pickDraw(draw(what), t.up + 1));
  }

  bool passages() {
    Heading ahead{1, 0};
    const auto length = static_cast<float>(t.length);
    if (!tryUntil(0, [&](uint64_t d) {
          ahead = headingOf(draw(d + kHeading), draw(d + kHeading2), stage.plane_);
          return add(PassageKind::Main, costs, middle(),
              pointAt(ahead.x * length, ahead.z * length, lower(d + kEnd)));
        }))
      return false;
    if (system.passages.empty()) return true;
    for (int k = 0; t.arm > 0 && k < t.arms; ++k)
      if (!tryUntil(k, [&](uint64_t d) { return arm(ahead, d); })) return false;
    for (int k = 0; t.apart > 0 && k < t.independent; ++k) {
      const std::vector<uint32_t> prices = keepingOff(nullptr);
      if (!tryUntil(k, [&](uint64_t d) { return independent(prices, d); })) return false;
    }
    return true;
  }

  Added independent(const std::vector<uint32_t>& prices, uint64_t d) {
    const Heading along = headingOf(draw(d + kOwnHeading), draw(d + kOwnHeading2), stage.plane_);
    const float half = static_cast<float>(t.apart) * 0.5f;
    const float room = static_cast<float>(t.side) * static_cast<float>(t.step) * 0.5f;
    const float x = signedUnitDraw(draw(d + kOwnX)) * room;
    const float z = stage.plane_ ? 0.0f : signedUnitDraw(draw(d + kOwnZ)) * room;
    return add(PassageKind::Own, prices,
        pointAt(x - along.x * half, z - along.z * half, lower(d + kOwnStart)),
        pointAt(x + along.x * half, z + along.z * half, lower(d + kOwnEnd)));
  }

  /// It leaves from the middle third of the main passage, to one side and somewhat ahead.
  Added arm(const Heading& ahead, uint64_t d) {
    const std::vector<uint32_t>& main = system.passages.front().lattice;
    const auto count = static_cast<int64_t>(main.size());
    const auto at = static_cast<size_t>(
        count / 3 + pickDraw(draw(d + kJunction), std::max<int64_t>(1, count / 3)));
    const uint32_t from = main[at];
    const float side = (draw(d + kArmSide) >> 63) != 0 ? 1.0f : -1.0f;
    float x = -ahead.z * side + ahead.x * 0.4f, z = ahead.x * side + ahead.z * 0.4f;
    if (stage.plane_) x = -ahead.x, z = 0;
    const float far = std::sqrt(x * x + z * z), length = static_cast<float>(t.arm);
    const uint32_t to = pointAt(
        points[from].x + x / far * length, points[from].z + z / far * length, lower(d + kArmEnd));
    return add(PassageKind::Arm, keepingOff(&from), from, to);
  }

  /// A shaft straight up from the site, through whatever overhangs; none where the sea is near.
  void shaft() {
    system.mouth = unitDraw(draw(kMouth)) < static_cast<float>(t.mouths);
    if (!system.mouth) return;
    const float wide = static_cast<float>(t.mouth) * (1.0f + stage.rough_);
    if (stage.sea_) {
      const auto r = static_cast<int64_t>(std::ceil(wide)) + 2;
      std::vector<Cell> cells;
      for (int64_t dz = stage.plane_ ? 0 : -r; dz <= (stage.plane_ ? 0 : r); ++dz)
        for (int64_t dx = -r; dx <= r; ++dx) cells.push_back({system.x + dx, system.z + dz});
      const std::vector<float> heights = stage.land_->heightsOf(cells);
      const float lowest = *std::min_element(heights.begin(), heights.end());
      // Below the sea level it would have to keep off the sea all the way.
      const bool deep = static_cast<float>(system.y) - wide - 1.0f < stage.seaLevel_;
      system.mouth =
          lowest >= stage.seaLevel_ + 1.0f + (deep ? stage.cover_ + stage.overhang_ + 1.0f : 0.0f);
      if (!system.mouth) return;
    }
    if (stage.columns_) return;
    const BorePoint foot = points[middle()];
    const float top = system.surface - static_cast<float>(system.y) + stage.overhang_ + 1.0f;
    const float bend = top - stage.overhang_ - static_cast<float>(t.mouth) * 2.0f;
    Passage& passage = system.passages.emplace_back();
    passage.kind = PassageKind::Shaft;
    passage.points.push_back(foot);
    // A funnel below the surface, as wide as the mouth from there on.
    if (bend > foot.y + 1.0f) passage.points.push_back({foot.x, bend, foot.z, foot.radius});
    const float lip = top - stage.overhang_ - 1.0f;
    if (lip > foot.y + 1.0f)
      passage.points.push_back({foot.x, lip, foot.z, static_cast<float>(t.mouth)});
    passage.points.push_back(
        {foot.x, std::max(top, foot.y + 1.0f), foot.z, static_cast<float>(t.mouth)});
  }

  void measure() {
    const float far = 1.0f + stage.rough_;
    float low[3] = {0, 0, 0}, high[3] = {0, 0, 0};
    float lowest = 0, highest = 0;
    for (const Passage& passage : system.passages)
      for (const BorePoint& p : passage.points) {
        const float at[3] = {p.x, p.y, p.z}, r = p.radius * far + 1.0f;
        for (int a = 0; a < 3; ++a) {
          low[a] = std::min(low[a], at[a] - r);
          high[a] = std::max(high[a], at[a] + r);
        }
        if (passage.kind == PassageKind::Shaft) continue;
        lowest = std::min(lowest, p.y - p.radius);
        highest = std::max(highest, p.y + p.radius);
      }
    const int64_t site[3] = {system.x, system.y, system.z};
    for (int a = 0; a < 3; ++a) {
      system.low[a] = site[a] + static_cast<int64_t>(std::floor(low[a]));
      system.high[a] = site[a] + static_cast<int64_t>(std::floor(high[a])) + 1;
    }
    system.floodedBelow =
        stage.wet_ ? system.y + static_cast<int64_t>(std::floor(
                                    lowest + (highest - lowest) * static_cast<float>(t.flooded)))
                   : std::numeric_limits<int64_t>::min();
  }
};

std::optional<Cell> TunnelStage::siteOf(int64_t squareX, int64_t squareZ) const {
  const uint64_t key = keyOf(squareX, squareZ);
  if (!(unitDraw(combine(key, kPresent)) < static_cast<float>(tunnels_.share))) return {};
  return Cell{squareX * spacing_ + pickDraw(combine(key, kSiteX), spacing_),
      plane_ ? 0 : squareZ * spacing_ + pickDraw(combine(key, kSiteZ), spacing_)};
}

auto TunnelStage::make(int64_t squareX, int64_t squareZ, const std::stop_token& stop) const
    -> Handle {
  const auto site = siteOf(squareX, squareZ);
  if (!site) return nullptr;
  const uint64_t key = keyOf(squareX, squareZ);
  auto system = std::make_shared<TunnelSystem>();
  system->squareX = squareX;
  system->squareZ = squareZ;
  system->x = site->x;
  system->z = site->z;
  system->surface = land_->heightAt({system->x, system->z});
  const float down = static_cast<float>(tunnels_.depth) +
                     static_cast<float>(tunnels_.depthVary) * unitDraw(combine(key, kDepth));
  system->y = static_cast<int64_t>(std::floor(system->surface - down));
  Maker maker(*this, *system, key, stop);
  if (!columns_) {
    maker.layOut();
    // A site that cannot be dug at has no system.
    if (maker.costs[maker.middle()] == kMostCost || !maker.passages()) return nullptr;
    if (system->passages.empty()) return nullptr;
  }
  maker.shaft();
  maker.measure();
  return system;
}

auto TunnelStage::latticeOf(const TunnelSystem& system) const -> std::vector<LatticePoint> {
  if (columns_) return {};
  TunnelSystem same = system;
  same.passages.clear();
  Maker maker(*this, same, keyOf(system.squareX, system.squareZ), {});
  maker.layOut();
  std::vector<LatticePoint> out;
  for (size_t n = 0; n < maker.points.size(); ++n) out.push_back({maker.points[n], maker.costs[n]});
  return out;
}

auto TunnelStage::system(int64_t squareX, int64_t squareZ, const std::stop_token& stop) const
    -> Handle {
  const auto square = memo_->get({squareX, squareZ}, stop, [&]() -> std::shared_ptr<const Square> {
    auto made = std::make_shared<Square>(Square{make(squareX, squareZ, stop)});
    return stop.stop_requested() ? nullptr : made;
  });
  return square ? square->system : nullptr;
}

bool TunnelStage::systemsNear(
    const Rect& area, std::vector<Handle>& out, const std::stop_token& stop) const {
  const int64_t firstZ = plane_ ? 0 : floorDiv(area.z - reach_, spacing_);
  const int64_t lastZ = plane_ ? 0 : floorDiv(area.z + area.length - 1 + reach_, spacing_);
  const int64_t firstX = floorDiv(area.x - reach_, spacing_);
  const int64_t lastX = floorDiv(area.x + area.width - 1 + reach_, spacing_);
  for (int64_t j = firstZ; j <= lastZ; ++j)
    for (int64_t i = firstX; i <= lastX; ++i) {
      if (stop.stop_requested()) return false;
      if (Handle found = system(i, j, stop)) out.push_back(std::move(found));
    }
  return !stop.stop_requested();
}

// ---- bores -------------------------------------------------------------------------------------

auto TunnelStage::stretchOf(const BorePoint& a, const BorePoint& b) -> Stretch {
  Stretch out{{a.x, a.y, a.z}, {b.x - a.x, b.y - a.y, b.z - a.z}, 0, a.radius, b.radius - a.radius};
  const float square =
      (out.along[0] * out.along[0] + out.along[1] * out.along[1]) + out.along[2] * out.along[2];
  out.perLength2 = square > 0.0f ? 1.0f / square : 0.0f;
  return out;
}

namespace {

/// How the walls stray, from the value of their noise.
float strayOf(float rough, float noise) {
  const float bounded = noise < -1.0f ? -1.0f : (noise > 1.0f ? 1.0f : noise);
  return 1.0f + rough * bounded;
}

}  // namespace

float TunnelStage::roughAt(int64_t x, int64_t y, int64_t z) const {
  const Pos place[3] = {{x, 0}, {y, 0}, {z, 0}};
  return strayOf(rough_, noiseAt(walls_, place));
}

void TunnelStage::strays(
    const Kernels& kernels, const SampleBlock& block, std::vector<float>& out) const {
  out.resize(static_cast<size_t>(block.width) * static_cast<size_t>(block.length) *
             static_cast<size_t>(block.height));
  noiseBlock(kernels, walls_, block, out.data());
  for (float& n : out) n = strayOf(rough_, n);
}

bool TunnelStage::samplesOf(const BorePoint& a, const BorePoint& b, const TunnelSystem& system,
    const SampleBlock& block, int32_t (&from)[3], int32_t (&to)[3]) const {
  const float far = std::max(a.radius, b.radius) * (1.0f + rough_) + 1.0f;
  const float low[3] = {std::min(a.x, b.x), std::min(a.y, b.y), std::min(a.z, b.z)};
  const float high[3] = {std::max(a.x, b.x), std::max(a.y, b.y), std::max(a.z, b.z)};
  const int64_t site[3] = {system.x, system.y, system.z};
  const int64_t first[3] = {block.x, block.y, block.z};
  const int32_t counts[3] = {block.width, block.height, block.length};
  for (int n = 0; n < 3; ++n) {
    const int64_t lowest = site[n] + static_cast<int64_t>(std::floor(low[n] - far));
    const int64_t highest = site[n] + static_cast<int64_t>(std::floor(high[n] + far)) + 1;
    from[n] = static_cast<int32_t>(std::clamp<int64_t>(
        floorDiv(lowest - first[n] + block.step - 1, block.step), 0, counts[n]));
    to[n] = static_cast<int32_t>(
        std::clamp<int64_t>(floorDiv(highest - first[n], block.step) + 1, 0, counts[n]));
    if (from[n] >= to[n]) return false;
  }
  return true;
}

template <class Visit>
void TunnelStage::eachHeld(const Stretch& s, const TunnelSystem& system, const SampleBlock& block,
    const int32_t (&from)[3], const int32_t (&to)[3], const float* noise, size_t skipped,
    Visit&& visit) {
  const size_t columns = static_cast<size_t>(block.width) * static_cast<size_t>(block.length);
  for (int32_t j = from[1]; j < to[1]; ++j) {
    const int64_t y = block.y + j * block.step;
    const float py = (static_cast<float>(y - system.y) + 0.5f) - s.a[1];
    for (int32_t n = from[2]; n < to[2]; ++n) {
      const float pz = (static_cast<float>(block.z + n * block.step - system.z) + 0.5f) - s.a[2];
      const size_t row = static_cast<size_t>(n) * static_cast<size_t>(block.width);
      for (int32_t i = from[0]; i < to[0]; ++i) {
        const float px = (static_cast<float>(block.x + i * block.step - system.x) + 0.5f) - s.a[0];
        const float dot = (px * s.along[0] + py * s.along[1]) + pz * s.along[2];
        float t = dot * s.perLength2;
        t = t < 0.0f ? 0.0f : (t > 1.0f ? 1.0f : t);
        const float qx = px - s.along[0] * t, qy = py - s.along[1] * t, qz = pz - s.along[2] * t;
        const float square = (qx * qx + qy * qy) + qz * qz;
        const size_t column = row + static_cast<size_t>(i);
        const size_t at = static_cast<size_t>(j) * columns + column;
        const float r = (s.radius + s.widen * t) * noise[at - skipped];
        if (square <= r * r) visit(at, column, y);
      }
    }
  }
}

bool TunnelStage::mark(const Kernels& kernels, const SampleBlock& block, const SeaGuard& guard,
    uint16_t mark, uint16_t* out, uint8_t* water, const std::stop_token& stop) const {
  std::vector<Handle> systems;
  if (!systemsNear({block.x, block.z, (block.width - 1) * block.step + 1,
                       (block.length - 1) * block.step + 1},
          systems, stop))
    return false;
  struct Piece {
    const TunnelSystem* system;
    Stretch stretch;
    int32_t from[3], to[3];
  };
  std::vector<Piece> pieces;
  int32_t lowest = block.height, highest = 0;  // Levels that some bore may hold.
  for (const Handle& system : systems) {
    if (system->high[1] < block.y || system->low[1] > block.y + (block.height - 1) * block.step)
      continue;
    for (const Passage& passage : system->passages)
      for (size_t k = 0; k + 1 < passage.points.size(); ++k) {
        const BorePoint &a = passage.points[k], &b = passage.points[k + 1];
        Piece piece{system.get(), stretchOf(a, b), {}, {}};
        if (!samplesOf(a, b, *system, block, piece.from, piece.to)) continue;
        lowest = std::min(lowest, piece.from[1]);
        highest = std::max(highest, piece.to[1]);
        pieces.push_back(piece);
      }
  }
  if (pieces.empty()) return true;
  SampleBlock part = block;
  part.y += lowest * block.step;
  part.height = highest - lowest;
  std::vector<float> noise;
  strays(kernels, part, noise);
  const size_t skipped = static_cast<size_t>(lowest) * static_cast<size_t>(block.width) *
                         static_cast<size_t>(block.length);
  for (const Piece& piece : pieces) {
    if (stop.stop_requested()) return false;
    const int64_t dry = piece.system->floodedBelow;
    eachHeld(piece.stretch, *piece.system, block, piece.from, piece.to, noise.data(), skipped,
        [&](size_t at, size_t column, int64_t y) {
          if (guard.keeps(y, column)) return;
          if (out[at] == 0) out[at] = mark;
          if (out[at] == mark && y < dry) water[at] = 1;
        });
  }
  return true;
}

BitGrid TunnelStage::cellsOf(const TunnelSystem& system) const {
  const auto extent = [&](int n) {
    return static_cast<int32_t>(system.high[n] - system.low[n] + 1);
  };
  BitGrid out(extent(0), extent(2), extent(1));
  const SampleBlock all{
      system.low[0], system.low[1], system.low[2], 1, extent(0), extent(1), extent(2)};
  std::vector<float> noise;
  for (const Passage& passage : system.passages)
    for (size_t k = 0; k + 1 < passage.points.size(); ++k) {
      const BorePoint &a = passage.points[k], &b = passage.points[k + 1];
      int32_t from[3], to[3];
      if (!samplesOf(a, b, system, all, from, to)) continue;
      const SampleBlock part{all.x + from[0], all.y + from[1], all.z + from[2], 1, to[0] - from[0],
          to[1] - from[1], to[2] - from[2]};
      strays(*kernels_, part, noise);
      const int32_t none[3] = {0, 0, 0}, whole[3] = {part.width, part.height, part.length};
      eachHeld(stretchOf(a, b), system, part, none, whole, noise.data(), 0,
          [&](size_t, size_t column, int64_t y) {
            const auto c = static_cast<int32_t>(column);
            out.set(from[0] + c % part.width, from[2] + c / part.width,
                static_cast<int32_t>(y - all.y), true);
          });
    }
  return out;
}

auto TunnelStage::holds(
    const Stretch& s, const TunnelSystem& system, Cell cell, int64_t y, float stray) -> Held {
  float d[3] = {(static_cast<float>(cell.x - system.x) + 0.5f) - s.a[0],
      (static_cast<float>(y - system.y) + 0.5f) - s.a[1],
      (static_cast<float>(cell.z - system.z) + 0.5f) - s.a[2]};
  const float dot = (d[0] * s.along[0] + d[1] * s.along[1]) + d[2] * s.along[2];
  float t = dot * s.perLength2;
  t = t < 0.0f ? 0.0f : (t > 1.0f ? 1.0f : t);
  for (int a = 0; a < 3; ++a) d[a] = d[a] - s.along[a] * t;
  const float square = (d[0] * d[0] + d[1] * d[1]) + d[2] * d[2];
  const float r = (s.radius + s.widen * t) * stray;
  return {square <= r * r, square, r};
}

auto TunnelStage::at(Cell cell, int64_t y) const -> At {
  At out;
  std::vector<Handle> systems;
  systemsNear({cell.x, cell.z, 1, 1}, systems);
  float stray = 0;
  bool known = false;
  for (const Handle& system : systems) {
    const int64_t place[3] = {cell.x, y, cell.z};
    bool near = true;
    for (int a = 0; a < 3; ++a)
      near = near && place[a] >= system->low[a] && place[a] <= system->high[a];
    if (!near) continue;
    if (!known) stray = roughAt(cell.x, y, cell.z);
    known = true;
    for (size_t p = 0; p < system->passages.size(); ++p) {
      const Passage& passage = system->passages[p];
      for (size_t k = 0; k + 1 < passage.points.size(); ++k) {
        const Held held =
            holds(stretchOf(passage.points[k], passage.points[k + 1]), *system, cell, y, stray);
        if (!held.within) continue;
        out.flooded = out.flooded || y < system->floodedBelow;
        if (out.system) continue;
        out.system = system;
        out.passage = static_cast<int>(p);
        out.stretch = static_cast<int>(k);
        out.distance = std::sqrt(held.square);
        out.radius = held.radius;
      }
    }
  }
  return out;
}

template <class Visit>
void TunnelStage::mouthsNear(Cell cell, int64_t far, Visit&& visit) const {
  for (int64_t j = plane_ ? 0 : floorDiv(cell.z - far, spacing_);
       j <= (plane_ ? 0 : floorDiv(cell.z + far, spacing_)); ++j)
    for (int64_t i = floorDiv(cell.x - far, spacing_); i <= floorDiv(cell.x + far, spacing_); ++i) {
      const auto site = siteOf(i, j);
      if (!site || std::abs(site->x - cell.x) > far || std::abs(site->z - cell.z) > far) continue;
      const Handle found = system(i, j);
      if (found && found->mouth && !visit(*found)) return;
    }
}

float TunnelStage::mouthFrom(Cell cell, float most) const {
  const auto mouth = static_cast<float>(tunnels_.mouth);
  float nearest = most;
  mouthsNear(cell, static_cast<int64_t>(std::ceil(most + mouth)), [&](const TunnelSystem& system) {
    const auto x = static_cast<float>(cell.x - system.x), z = static_cast<float>(cell.z - system.z);
    nearest = std::min(nearest, std::max(0.0f, std::sqrt(x * x + z * z) - mouth));
    return true;
  });
  return nearest;
}

bool TunnelStage::shaftAt(Cell cell, int64_t y) const {
  const float widest = std::max(static_cast<float>(tunnels_.mouth), widest_) * (1.0f + rough_);
  const auto far = static_cast<int64_t>(std::ceil(widest)) + 1;
  std::optional<float> stray;
  bool held = false;
  mouthsNear(cell, far, [&](const TunnelSystem& found) {
    if (found.passages.empty()) return true;
    const Passage& shaft = found.passages.back();
    if (!stray) stray = roughAt(cell.x, y, cell.z);
    for (size_t k = 0; k + 1 < shaft.points.size() && !held; ++k)
      held = holds(stretchOf(shaft.points[k], shaft.points[k + 1]), found, cell, y, *stray).within;
    return !held;
  });
  return held;
}

// ---- openings in worlds of columns -------------------------------------------------------------

bool TunnelStage::openingAt(Cell cell, const TunnelSystem& system) const {
  if (!system.mouth) return false;
  const auto x = static_cast<float>(cell.x - system.x), z = static_cast<float>(cell.z - system.z);
  const float square = x * x + z * z;
  const auto mouth = static_cast<float>(tunnels_.mouth);
  const float widest = mouth * (1.0f + rough_);
  if (square > widest * widest) return false;
  const float r = mouth * roughAt(cell.x, system.y, cell.z);
  return square <= r * r;
}

bool TunnelStage::markOpenings(const SampleGrid& grid, uint16_t mark, uint16_t* out,
    ptrdiff_t stride, const std::stop_token& stop) const {
  std::vector<Handle> systems;
  if (!systemsNear(
          {grid.x, grid.z, (grid.width - 1) * grid.step + 1, (grid.length - 1) * grid.step + 1},
          systems, stop))
    return false;
  const auto far = static_cast<int64_t>(std::ceil(tunnels_.mouth * (1 + tunnels_.rough))) + 1;
  for (const Handle& system : systems) {
    if (!system->mouth) continue;
    const auto range = [&](int64_t middle, int64_t first, int32_t count) {
      return std::pair(std::clamp<int64_t>(floorDiv(middle - far - first, grid.step), 0, count),
          std::clamp<int64_t>(floorDiv(middle + far - first, grid.step) + 1, 0, count));
    };
    const auto [x0, x1] = range(system->x, grid.x, grid.width);
    const auto [z0, z1] = range(system->z, grid.z, grid.length);
    for (int64_t j = z0; j < z1; ++j)
      for (int64_t i = x0; i < x1; ++i)
        if (openingAt({grid.x + i * grid.step, grid.z + j * grid.step}, *system))
          out[j * stride + i] = mark;
  }
  return true;
}

const char* passageName(PassageKind kind) {
  switch (kind) {
    case PassageKind::Main:
      return "main passage";
    case PassageKind::Arm:
      return "arm";
    case PassageKind::Own:
      return "own passage";
    case PassageKind::Shaft:
      return "shaft";
  }
  return "";
}

}  // namespace acre
