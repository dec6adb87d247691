#include "audit/water_summary.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "audit/land_grid.h"
#include "base/text.h"
#include "water/water_stage.h"
#include "world/world.h"

namespace acre {
namespace {

Status checkSides(const Rect& area, int64_t most) {
  if (!area.empty() && std::max(area.width, area.length) <= most) return done();
  return Error{Error::Code::InvalidInput, fmt::format("{} x {} cells", area.width, area.length),
      "--area", fmt::format("1 to {} cells a side", most)};
}

}  // namespace

int32_t Falls::highest() const {
  int32_t out = 0;
  for (const Fall& f : falls) out = std::max(out, f.high);
  return out;
}

Result<Falls> fallsIn(const World& world, const Rect& area, const std::stop_token& stop) {
  Falls out;
  if (!world.water()) return out;
  if (const Status fits = checkSides(area, 4096); !fits) return fits.error();
  const double seaLevel = world.blocks() ? std::ceil(world.seaLevel()) : world.seaLevel();
  const auto sea = static_cast<int32_t>(std::ceil(seaLevel));
  constexpr int64_t kRows = 128;
  LandGrid land;
  for (int64_t row = 0; row < area.length; row += kRows) {
    const auto rows = static_cast<int32_t>(std::min(kRows, area.length - row));
    const SampleGrid grid{
        area.x - 1, area.z + row - 1, 1, static_cast<int32_t>(area.width) + 2, rows + 2};
    if (!land.fill(world, grid, stop)) return cancelled();
    for (int32_t j = 1; j <= rows; ++j)
      for (int32_t i = 1; i + 1 < grid.width; ++i) {
        const size_t at = land.at(i, j);
        if (!isFresh(land.kinds[at]) || !world.bounds().contains(land.cell(i, j))) continue;
        ++out.water;
        for (const auto& [di, dj] : {std::pair(-1, 0), {1, 0}, {0, -1}, {0, 1}}) {
          const size_t beside = land.at(i + di, j + dj);
          const Cell ground = land.cell(i + di, j + dj);
          if (land.kinds[beside] != WaterKind::Dry || !world.bounds().contains(ground)) continue;
          const int32_t level = land.levels[at];
          const int32_t high = level - static_cast<int32_t>(std::floor(land.heights[beside]));
          // What lies as high as the sea, which need not be whole, is held by its shore.
          if (high <= 0 || (level == sea && static_cast<double>(land.heights[beside]) >= seaLevel))
            continue;
          out.falls.push_back({land.cell(i, j), ground, level, high});
        }
      }
  }
  return out;
}

size_t WaterSummary::ends(RiverEnd end) const {
  return static_cast<size_t>(std::count_if(
      rivers.begin(), rivers.end(), [&](const RiverFigures& r) { return r.end == end; }));
}

std::array<size_t, 3> WaterSummary::sizes() const {
  std::array<size_t, 3> out{};
  for (const LakeFigures& l : lakes) ++out[l.bricks < 4 ? 0 : l.bricks < 16 ? 1 : 2];
  return out;
}

Rect summaryPart(const Rect& area) {
  return middlePart(area, kLongestSummary);
}

Result<WaterSummary> waterSummary(
    const World& world, const Rect& area, const std::stop_token& stop) {
  WaterSummary out;
  out.area = area;
  if (!world.water()) return out;
  if (const Status fits = checkSides(area, kLongestSummary); !fits) return fits.error();
  auto rivers = findRiversIn(world, area, stop);
  if (!rivers) return rivers.error();
  auto lakes = findLakesIn(world, area, stop);
  if (!lakes) return lakes.error();
  out.rivers = std::move(*rivers);
  out.lakes = std::move(*lakes);
  try {
    Drainage::Reader net(world.water()->drainage(), stop);
    const Brick first = brickOf({area.x, area.z});
    const Brick last = brickOf({area.x + area.width - 1, area.z + area.length - 1});
    for (int64_t j = first.j; j <= last.j; ++j)
      for (int64_t i = first.i; i <= last.i; ++i) {
        if (stop.stop_requested()) return cancelled();
        if (!net.isRiver({i, j})) continue;
        const DrainAt drain = net.drain({i, j});
        if (drain.drains == Drains::Sink) continue;
        const Cell from = net.nodeOf({i, j}), to = net.nodeOf(drain.next);
        out.length +=
            std::hypot(static_cast<double>(to.x - from.x), static_cast<double>(to.z - from.z));
      }
  } catch (const Drainage::Reader::Stopped&) {
    return cancelled();
  }
  constexpr int64_t kSamples = 256;  // A side.
  while (
      out.step < WaterStage::kExactStep && std::max(area.width, area.length) > kSamples * out.step)
    out.step *= 2;
  LandGrid land;
  const auto samples = [&](int64_t cells) {
    return static_cast<int32_t>((cells + out.step - 1) / out.step);
  };
  if (!land.fill(
          world, {area.x, area.z, out.step, samples(area.width), samples(area.length)}, stop) ||
      !land.fillBefore(world, stop))
    return cancelled();
  int64_t ground = 0, lake = 0, river = 0;
  for (int32_t j = 0; j < land.grid.length; ++j)
    for (int32_t i = 0; i < land.grid.width; ++i) {
      const size_t at = land.at(i, j);
      if (land.kinds[at] == WaterKind::Sea || !world.bounds().contains(land.cell(i, j))) continue;
      ++ground;
      lake += land.kinds[at] == WaterKind::Lake;
      river += land.kinds[at] == WaterKind::River;
      const auto cut = static_cast<double>(land.before[at]) - static_cast<double>(land.heights[at]);
      if (cut <= out.deepest) continue;
      out.deepest = cut;
      out.deepestAt = land.cell(i, j);
    }
  if (ground > 0) {
    out.lakeShare = static_cast<double>(lake) / static_cast<double>(ground);
    out.riverShare = static_cast<double>(river) / static_cast<double>(ground);
  }
  return out;
}

std::vector<std::string> summaryLines(const WaterSummary& s) {
  std::vector<std::string> out;
  const auto one = [](size_t n) { return n == 1; };
  if (s.rivers.empty()) {
    out.push_back("No river springs here.");
  } else {
    const RiverFigures& longest = s.rivers.front();
    out.push_back(fmt::format("{} {} here, {:.0f} cells of river run through it.", s.rivers.size(),
        one(s.rivers.size()) ? "river springs" : "rivers spring", s.length));
    out.push_back(fmt::format("The longest, {}, runs {:.0f} cells and drops {:.0f}.",
        longest.name(), longest.length, longest.drop));
    std::string ends;
    for (const RiverEnd end :
        {RiverEnd::Sea, RiverEnd::Lake, RiverEnd::ClosedLake, RiverEnd::River, RiverEnd::Nowhere})
      if (const size_t n = s.ends(end))
        ends += fmt::format("{}{} in {}", ends.empty() ? "" : ", ", n,
            end == RiverEnd::Nowhere ? "no water" : endName(end));
    out.push_back(fmt::format("They end: {}.", ends));
  }
  const auto [small, middle, large] = s.sizes();
  out.push_back(
      s.lakes.empty()
          ? std::string("No lake lies here.")
          : fmt::format("{} {}: {} of less than 4 bricks, {} of less than 16, "
                        "{} larger.",
                s.lakes.size(), one(s.lakes.size()) ? "lake" : "lakes", small, middle, large));
  out.push_back(fmt::format("Of the land {} is under lakes and {} under rivers.",
      percentText(s.lakeShare), percentText(s.riverShare)));
  if (s.deepest > 0)
    out.push_back(fmt::format(
        "The deepest cut is {:.1f} cells, at {}, {}.", s.deepest, s.deepestAt.x, s.deepestAt.z));
  return out;
}

}  // namespace acre
