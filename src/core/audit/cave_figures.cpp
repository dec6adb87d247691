#include "audit/cave_figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <map>
#include <numbers>

#include "base/fp_state.h"
#include "base/parallel.h"
#include "cave/caves.h"
#include "recipe/cave_recipe.h"
#include "world/world.h"

namespace acre {

std::string FoundSystem::name(const World& world) const {
  const auto index = static_cast<size_t>(world.caves()->tunnels()[part].index);
  return fmt::format("{} {}", world.recipe().caves->tunnels[index].id, system->name());
}

Result<std::vector<FoundSystem>> findSystems(
    const World& world, Cell near, int64_t within, const std::stop_token& stop, bool together) {
  if (within < 1 || within > kFarthestSearch)
    return Error{Error::Code::InvalidInput, fmt::format("a search of {} cells", within), "within",
        fmt::format("1 to {} cells", kFarthestSearch)};
  std::vector<FoundSystem> out;
  if (!world.caves()) return out;
  const FpState fp;
  const bool plane = world.layout().vertical().plane;
  for (size_t part = 0; part < world.caves()->tunnels().size(); ++part) {
    const TunnelStage& stage = *world.caves()->tunnels()[part].stage;
    const int64_t side = stage.spacing();
    const int64_t x0 = floorDiv(near.x - within, side), x1 = floorDiv(near.x + within, side);
    const int64_t z0 = plane ? 0 : floorDiv(near.z - within, side);
    const int64_t z1 = plane ? 0 : floorDiv(near.z + within, side);
    const int64_t wide = x1 - x0 + 1, squares = wide * (z1 - z0 + 1);
    if (squares > kMostSquares)
      return Error{Error::Code::InvalidInput,
          fmt::format("{} squares of {} cells to look into", squares, side), "within",
          fmt::format("at most {} squares: a shorter distance", kMostSquares)};
    std::vector<TunnelStage::Handle> found(static_cast<size_t>(squares));
    parallelFor(together ? 0u : 1u, static_cast<int32_t>(squares), [&](int32_t k) {
      if (!stop.stop_requested())
        found[static_cast<size_t>(k)] = stage.system(x0 + k % wide, z0 + k / wide, stop);
    });
    if (stop.stop_requested()) return cancelled();
    for (TunnelStage::Handle& system : found) {
      if (!system || !world.bounds().contains({system->x, system->z})) continue;
      const auto dx = static_cast<double>(system->x - near.x);
      const auto dz = static_cast<double>(system->z - near.z);
      const double distance = std::sqrt(dx * dx + dz * dz);
      if (distance > static_cast<double>(within)) continue;
      const double degrees = std::atan2(dx, -dz) * 180 / std::numbers::pi;
      out.push_back({part, std::move(system), distance, degrees < 0 ? degrees + 360 : degrees});
    }
  }
  std::stable_sort(out.begin(), out.end(),
      [](const FoundSystem& a, const FoundSystem& b) { return a.distance < b.distance; });
  return out;
}

namespace {

struct Vec {
  double x = 0, y = 0, z = 0;
  Vec operator+(const Vec& o) const { return {x + o.x, y + o.y, z + o.z}; }
  Vec operator-(const Vec& o) const { return {x - o.x, y - o.y, z - o.z}; }
  Vec operator*(double s) const { return {x * s, y * s, z * s}; }
  double length() const { return std::sqrt(x * x + y * y + z * z); }
};
Vec cross(const Vec& a, const Vec& b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
Vec at(const BorePoint& p) {
  return {p.x, p.y, p.z};
}

/// The cells of a system, asked in cells from the site's lower corner.
class Dug {
 public:
  Dug(const BitGrid& cells, const TunnelSystem& system) : cells_(cells), system_(system) {}

  bool holds(const Vec& p) const {
    const int64_t x = system_.x + static_cast<int64_t>(std::floor(p.x)) - system_.low[0];
    const int64_t y = system_.y + static_cast<int64_t>(std::floor(p.y)) - system_.low[1];
    const int64_t z = system_.z + static_cast<int64_t>(std::floor(p.z)) - system_.low[2];
    if (x < 0 || y < 0 || z < 0 || x >= cells_.width() || y >= cells_.levels() ||
        z >= cells_.length())
      return false;
    return cells_.at(static_cast<int32_t>(x), static_cast<int32_t>(z), static_cast<int32_t>(y));
  }

  /// Open cells from a point in one direction.
  double ray(const Vec& from, const Vec& way) const {
    constexpr double kStride = 0.25, kFarthest = 64;
    double far = 0;
    while (far < kFarthest && holds(from + way * far)) far += kStride;
    return far;
  }

 private:
  const BitGrid& cells_;
  const TunnelSystem& system_;
};

PassageFigures measure(const Passage& passage, const Dug& dug, bool plane) {
  PassageFigures out;
  out.kind = passage.kind;
  const auto& points = passage.points;
  double round = 0, widths = 0, overlap = 0;
  for (size_t k = 0; k + 1 < points.size(); ++k) {
    const Vec a = at(points[k]), b = at(points[k + 1]);
    const Vec along = b - a;
    const double length = along.length();
    if (length <= 0) continue;
    const Vec way = along * (1 / length);
    // Two directions square to the way, and those between them.
    Vec side = cross(way, std::abs(way.y) < 0.9 ? Vec{0, 1, 0} : Vec{1, 0, 0});
    side = side * (1 / side.length());
    const Vec up = cross(side, way);
    std::vector<Vec> directions = {
        side, up, (side + up) * std::numbers::sqrt2 * 0.5, (side - up) * std::numbers::sqrt2 * 0.5};
    if (plane) directions = {Vec{-way.y, way.x, 0}};
    const int parts = std::max(1, static_cast<int>(std::lround(length / 2)));
    for (int n = 0; n < parts; ++n) {
      const double t = (n + 0.5) / parts;
      const Vec p = a + along * t;
      WidthSample sample;
      sample.along = out.length + length * t;
      sample.narrow = 1e9;
      for (const Vec& d : directions) {
        const double across = dug.ray(p, d) + dug.ray(p, d * -1.0);
        sample.width += across / static_cast<double>(directions.size());
        sample.narrow = std::min(sample.narrow, across);
        sample.wide = std::max(sample.wide, across);
      }
      const double bored = 2 * (static_cast<double>(points[k].radius) * (1 - t) +
                                   static_cast<double>(points[k + 1].radius) * t);
      sample.tooWide = sample.width > kTooWide * bored;
      const double weight = length / parts;
      widths += sample.width * weight;
      round += (sample.wide > 0 ? sample.narrow / sample.wide : 1) * weight;
      overlap += sample.tooWide ? weight : 0;
      out.widths.push_back(sample);
    }
    out.length += length;
  }
  if (out.length <= 0) return out;
  out.straightness = (at(points.back()) - at(points.front())).length() / out.length;
  out.roundness = round / out.length;
  out.meanWidth = widths / out.length;
  out.overlap = overlap / out.length;
  return out;
}

/// Counts parts of a set of cells that connect through their sides, taking cells out as it goes.
/// Calls visit(x, z, y) for each.
template <class Visit>
int flood(BitGrid& cells, Visit&& visit) {
  struct Place {
    int32_t x, z, y;
  };
  int parts = 0;
  std::vector<Place> open;
  for (int32_t y = 0; y < cells.levels(); ++y)
    for (int32_t z = 0; z < cells.length(); ++z)
      for (int32_t first = 0; first < cells.width(); first += 64) {
        while (const uint64_t bits = cells.bits(first, z, y)) {
          const int32_t x = first + std::countr_zero(bits);
          if (x >= cells.width()) break;
          ++parts;
          cells.set(x, z, y, false);
          open.push_back({x, z, y});
          while (!open.empty()) {
            const Place p = open.back();
            open.pop_back();
            visit(p.x, p.z, p.y, parts);
            for (const Place n :
                {Place{p.x - 1, p.z, p.y}, {p.x + 1, p.z, p.y}, {p.x, p.z - 1, p.y},
                    {p.x, p.z + 1, p.y}, {p.x, p.z, p.y - 1}, {p.x, p.z, p.y + 1}}) {
              if (n.x < 0 || n.z < 0 || n.y < 0 || n.x >= cells.width() || n.z >= cells.length() ||
                  n.y >= cells.levels() || !cells.at(n.x, n.z, n.y))
                continue;
              cells.set(n.x, n.z, n.y, false);
              open.push_back(n);
            }
          }
        }
      }
  return parts;
}

}  // namespace

SystemFigures figuresOf(const World& world, const FoundSystem& found) {
  const FpState fp;
  SystemFigures out;
  const TunnelSystem& system = *found.system;
  const CaveStage::TunnelPart& part = world.caves()->tunnels()[found.part];
  out.depth = static_cast<double>(system.surface) - static_cast<double>(system.y + 1);
  if (!world.blocks()) {
    out.mouths = system.mouth ? 1 : 0;
    return out;
  }
  BitGrid cells = world.caves()->cellsOf(part, system);
  const Dug dug(cells, system);
  const bool plane = world.layout().vertical().plane;
  double straight = 0, round = 0, overlap = 0, shaft = 0;
  for (const Passage& passage : system.passages) {
    out.passages.push_back(measure(passage, dug, plane));
    const PassageFigures& p = out.passages.back();
    round += p.roundness * p.length;
    overlap += p.overlap * p.length;
    if (p.kind == PassageKind::Shaft) {
      shaft += p.length;
      continue;
    }
    out.length += p.length;
    straight += p.straightness * p.length;
    // The site and the arm's beginning lead on; all other ends are dead.
    out.deadEnds += p.kind == PassageKind::Own ? 2 : 1;
  }
  if (!system.mouth) ++out.deadEnds;
  const double all = out.length + shaft;
  if (out.length > 0) out.straightness = straight / out.length;
  if (all > 0) {
    out.roundness = round / all;
    out.overlap = overlap / all;
  }
  // What sticks out of the ground is a mouth; heights are asked only where that may be.
  std::map<std::pair<int32_t, int32_t>, float> heights;
  const auto surfaceAt = [&](int32_t x, int32_t z) {
    const auto [known, fresh] = heights.try_emplace({x, z}, 0.0f);
    if (fresh) known->second = world.columns().heightAt({system.low[0] + x, system.low[2] + z});
    return known->second;
  };
  BitGrid air(cells.width(), cells.length(), cells.levels());
  out.lowest = system.high[1];
  out.highest = system.low[1];
  out.pieces = flood(cells, [&](int32_t x, int32_t z, int32_t j, int) {
    const int64_t y = system.low[1] + j;
    if (static_cast<float>(y + 1) > surfaceAt(x, z)) {
      air.set(x, z, j, true);
      return;
    }
    ++out.volume;
    out.flooded += y < system.floodedBelow;
    out.lowest = std::min(out.lowest, y);
    out.highest = std::max(out.highest, y);
  });
  out.mouths = flood(air, [](int32_t, int32_t, int32_t, int) {});
  return out;
}

Result<SpacesInBox> spacesIn(
    const World& world, const SampleBlock& box, const std::stop_token& stop) {
  const int64_t cells = int64_t{box.width} * box.height * box.length;
  if (box.width < 1 || box.height < 1 || box.length < 1 || cells > kMostBoxCells || box.step != 1)
    return Error{Error::Code::InvalidInput,
        fmt::format("a box of {} x {} x {} blocks", box.width, box.height, box.length), "box",
        fmt::format("1 to {} blocks", kMostBoxCells)};
  if (!world.blocks() && !world.level())
    return Error{Error::Code::InvalidInput, "this world is made of tiles", "box",
        "a world of the kind voxel, side or level"};
  SpacesInBox out{box, {}, {}};
  if (world.level()) {
    out.box.y = 0;
    out.box.height = 1;
    BitGrid solid(box.width, box.length);
    for (int32_t k = 0; k < box.length; ++k) {
      if (stop.stop_requested()) return cancelled();
      for (int32_t i = 0; i < box.width; ++i) {
        const Cell cell{box.x + i, box.z + k};
        solid.set(i, k, !world.bounds().contains(cell) || !world.columns().isOpen(cell));
      }
    }
    OpenSpaces found = OpenSpaces::of(solid);
    out.spaces = std::move(found.spaces);
    out.labels = std::move(found.labels);
    return out;
  }
  BitGrid solid(box.width, box.length, box.height);
  std::vector<float> heights(static_cast<size_t>(box.width) * static_cast<size_t>(box.length));
  if (Status made =
          world.sample({box.x, box.z, 1, box.width, box.length}, heights.data(), nullptr, stop);
      !made)
    return made.error();
  constexpr int32_t kSide = 64;
  std::vector<MaterialIndex> blocks;
  for (int32_t j0 = 0; j0 < box.height; j0 += kSide)
    for (int32_t k0 = 0; k0 < box.length; k0 += kSide)
      for (int32_t i0 = 0; i0 < box.width; i0 += kSide) {
        const SampleBlock part{box.x + i0, box.y + j0, box.z + k0, 1,
            std::min(kSide, box.width - i0), std::min(kSide, box.height - j0),
            std::min(kSide, box.length - k0)};
        blocks.resize(static_cast<size_t>(part.width) * static_cast<size_t>(part.height) *
                      static_cast<size_t>(part.length));
        if (Status made = world.sampleBlocks(part, blocks.data(), stop); !made) return made.error();
        const MaterialIndex* at = blocks.data();
        for (int32_t j = j0; j < j0 + part.height; ++j)
          for (int32_t k = k0; k < k0 + part.length; ++k)
            for (int32_t i = i0; i < i0 + part.width; ++i, ++at) {
              const Material* held = world.catalogue().material(*at);
              const bool open = *at == kOpen || (held && held->state == MaterialState::Liquid);
              const bool under = static_cast<float>(box.y + j + 1) <=
                                 heights[static_cast<size_t>(k) * static_cast<size_t>(box.width) +
                                         static_cast<size_t>(i)];
              if (!(open && under)) solid.set(i, k, j, true);
            }
      }
  OpenSpaces found = OpenSpaces::of(solid);
  out.spaces = std::move(found.spaces);
  out.labels = std::move(found.labels);
  return out;
}

}  // namespace acre
