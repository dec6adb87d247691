#include "output/section.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "output/picture.h"
#include "output/shading.h"
#include "view/scene.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr uint32_t kSea = 0xFF1C6A78;
constexpr float kBedCover = 0.35f;  // Of its pen.

/// Pens of printed sections; none runs at 45 degrees, which means fault.
enum class Pen { Dots, Dashes, Bricks, Ticks, Crosses, Rings };
constexpr int kPens = 6;

bool penAt(Pen pen, int32_t x, int32_t y) {
  const auto shifted = [&](int32_t rows, int32_t by) { return x + y / rows % 2 * by; };
  switch (pen) {
    case Pen::Dots:
      return y % 5 == 2 && shifted(5, 5) % 10 == 3;
    case Pen::Dashes:
      return y % 6 == 3 && shifted(6, 7) % 14 < 6;
    case Pen::Bricks:
      return y % 9 == 0 || shifted(9, 9) % 18 == 0;
    case Pen::Ticks:
      return y % 8 < 3 && shifted(8, 5) % 10 == 0;
    case Pen::Crosses: {
      const int32_t i = shifted(12, 6) % 12, j = y % 12;
      return (i == 5 && j > 2 && j < 8) || (j == 5 && i > 2 && i < 8);
    }
    case Pen::Rings: {
      const int32_t i = shifted(11, 6) % 12 - 5, j = y % 11 - 5;
      return i * i + j * j >= 3 && i * i + j * j <= 5;
    }
  }
  return false;
}

/// How a thing is drawn.
struct Look {
  uint32_t ink = 0;
  Pen pen = Pen::Dots;
  float cover = 0;  ///< Of the pen; 0: none.
};

std::vector<Look> looksOf(
    const World& world, const BlockClasses& classes, const SectionStyle& style) {
  constexpr float kFaint = 0.16f, kPlain = 0.5f;
  constexpr int kClose = 60;  // Steps of all channels together, from the paper.
  std::vector<Look> out;
  int solids = 0;
  for (const uint32_t ink : styleFor(world).inks) {
    Look look{ink, Pen::Dots, 0};
    const auto thing = static_cast<MaterialIndex>(out.size());
    if (thing != kUnassigned && classes.of(thing) == BlockClass::Solid) {
      look.pen = static_cast<Pen>(solids++ % kPens);
      int apart = 0;
      for (const int shift : {16, 8, 0})
        apart += std::abs(
            static_cast<int>(ink >> shift & 255) - static_cast<int>(style.paper >> shift & 255));
      look.cover = apart < kClose ? kPlain : style.patterns ? kFaint : 0;
    }
    out.push_back(look);
  }
  return out;
}

}  // namespace

Status checkSection(const SectionRequest& r) {
  const auto refuse = [](std::string what, std::string where, std::string accepted) {
    return Error{Error::Code::InvalidInput, std::move(what), std::move(where), std::move(accepted)};
  };
  if (r.width < 1 || r.height < 1 || r.width > SectionRequest::kLongestSide ||
      r.height > SectionRequest::kLongestSide)
    return refuse(fmt::format("{} x {} pixels", r.width, r.height), "size", "1 to 8192 a side");
  constexpr double kFarthest = 1 << 22;
  if (!(std::abs(r.low) <= kFarthest && std::abs(r.high) <= kFarthest && r.high - r.low >= 1))
    return refuse(fmt::format("from altitude {} to {}", r.low, r.high), "altitudes",
        "low at least 1 below high, within 2^22");
  for (const Cell c : {r.from, r.to})
    if (c.x < -kMaxCell || c.x > kMaxCell || c.z < -kMaxCell || c.z > kMaxCell)
      return refuse(
          fmt::format("{},{} is beyond the world", c.x, c.z), "line", "cells from -2^60 to 2^60");
  if (r.from == r.to) return refuse("both ends are one cell", "line", "two different cells");
  return done();
}

int32_t Section::levelAt(int32_t row) const {
  const auto y = static_cast<int64_t>(std::floor(altitudeAt(row + 0.5)));
  return static_cast<int32_t>(
      std::clamp<int64_t>((y - levels.first) / levels.step, 0, levels.count - 1));
}

bool isBed(const Section& section, const BlockClasses& classes, int32_t column, int32_t level) {
  if (!section.bedsUntold || classes.of(section.at(column, level)) != BlockClass::Liquid)
    return false;
  const int64_t y = section.levels.first + level * section.levels.step;
  return static_cast<float>(y + 1) <= section.heights[static_cast<size_t>(column)];
}

Result<Section> sampleSection(
    const World& world, const SectionRequest& request, const std::stop_token& stop) {
  if (Status fits = checkSection(request); !fits) return fits.error();
  Section out;
  out.request = request;
  const auto dx = static_cast<double>(request.to.x - request.from.x);
  const auto dz = static_cast<double>(request.to.z - request.from.z);
  for (int32_t i = 0; i < request.width; ++i) {
    const double t = (i + 0.5) / request.width;
    const Cell cell{request.from.x + static_cast<int64_t>(std::floor(dx * t + 0.5)),
        request.from.z + static_cast<int64_t>(std::floor(dz * t + 0.5))};
    if (out.cells.empty() || out.cells.back() != cell) out.cells.push_back(cell);
    out.columnOf.push_back(static_cast<int32_t>(out.cells.size() - 1));
  }
  const auto first = static_cast<int64_t>(std::floor(request.low));
  const auto last = static_cast<int64_t>(std::ceil(request.high)) - 1;
  const int64_t step = std::max<int64_t>(1, (last - first + 1) / request.height);
  out.levels = {first, static_cast<int32_t>((last - first) / step + 1), step};
  const auto columns = static_cast<int>(out.cells.size());
  out.bedsUntold = !world.blocks();
  out.blocks.resize(out.cells.size() * static_cast<size_t>(out.levels.count));
  out.heights.resize(out.cells.size());
  // In batches, so that stopping is prompt and scratch small.
  constexpr int kBatch = 128;
  std::vector<MaterialIndex> part;
  for (int from = 0; from < columns; from += kBatch) {
    const int count = std::min(kBatch, columns - from);
    part.resize(static_cast<size_t>(count) * static_cast<size_t>(out.levels.count));
    if (Status made = world.sampleColumns(count, out.cells.data() + from, out.levels, part.data(),
            out.heights.data() + from, stop);
        !made)
      return made.error();
    for (int32_t j = 0; j < out.levels.count; ++j)
      std::copy_n(part.data() + ptrdiff_t{j} * count, count,
          out.blocks.data() + ptrdiff_t{j} * columns + from);
  }
  return out;
}

std::vector<uint32_t> paintSection(
    const World& world, const Section& section, const SectionStyle& style) {
  const int32_t width = section.request.width, height = section.request.height;
  std::vector<uint32_t> out(static_cast<size_t>(width) * static_cast<size_t>(height), style.paper);
  const BlockClasses classes(world);
  const std::vector<Look> looks = looksOf(world, classes, style);
  const GroundScale own(std::shared_ptr<const World>(std::shared_ptr<void>(), &world));
  const WaterInks* water =
      style.depths ? &(style.scale ? style.scale.get() : &own)->water() : nullptr;
  // By pixel along the line, the altitude at which the water begins that one is in; NaN: dry.
  std::vector<double> waterTop(static_cast<size_t>(width), NAN);
  const ChunkLayout& layout = world.groundLayout();
  const auto seaRow =
      static_cast<int32_t>(std::lround((section.request.high - world.seaLevel()) /
                                       (section.request.high - section.request.low) * height));
  const auto pixelsPerLevel =
      static_cast<double>(height) / (section.request.high - section.request.low);
  for (int32_t row = 0; row < height; ++row) {
    const int32_t level = section.levelAt(row);
    const int32_t above = section.levelAt(std::max(0, row - 1));
    const int64_t y = section.levels.first + level * section.levels.step;
    for (int32_t i = 0; i < width; ++i) {
      const int32_t column = section.columnOf[static_cast<size_t>(i)];
      const MaterialIndex here = section.at(column, level);
      uint32_t& pixel =
          out[static_cast<size_t>(row) * static_cast<size_t>(width) + static_cast<size_t>(i)];
      const bool bed = isBed(section, classes, column, level);
      const bool wet = !bed && classes.of(here) == BlockClass::Liquid;
      double& top = waterTop[static_cast<size_t>(i)];
      if (!wet) top = NAN;
      if (here == kUnassigned) {
        pixel = hatchAt(i, row);
      } else if (bed) {
        pixel = penAt(Pen::Dots, i, row) ? mixed(kPlainGround, kPenInk, kBedCover) : kPlainGround;
      } else if (wet) {
        const double altitude = section.altitudeAt(row + 0.5);
        if (std::isnan(top)) top = row > 0 ? altitude : std::max(altitude, world.seaLevel());
        pixel = water && water->has(here) ? water->at(here, static_cast<float>(top - altitude))
                                          : looks[here].ink;
      } else if (here < kOpen) {
        const Look& look = looks[here];
        const bool inked = look.cover > 0 && penAt(look.pen, i, row);
        pixel = inked ? mixed(look.ink, kPenInk, look.cover) : look.ink;
      }
      if (style.chunks && here != kOutside) {
        const int32_t left = section.columnOf[static_cast<size_t>(std::max(0, i - 1))];
        const Cell a = section.cells[static_cast<size_t>(column)],
                   b = section.cells[static_cast<size_t>(left)];
        const ChunkPos p = layout.chunkOf(a), q = layout.chunkOf(b);
        const bool down =
            layout.vertical().tall > 0 &&
            layout.chunkOfLevel(y, 0) !=
                layout.chunkOfLevel(section.levels.first + above * section.levels.step, 0);
        const bool fine = static_cast<double>(layout.size()) * pixelsPerLevel >= 12;
        if (fine && (p != q || down)) pixel = mixed(pixel, kPenInk, 0.28f);
      }
      if (!style.surface || here == kOutside) continue;
      // Ink where ground and open space part.
      const bool solid = bed || classes.of(here) == BlockClass::Solid;
      const auto other = [&](int32_t c, int32_t l) {
        const MaterialIndex m = section.at(c, l);
        return m != kOutside &&
               (isBed(section, classes, c, l) || classes.of(m) == BlockClass::Solid) != solid;
      };
      const int32_t right = section.columnOf[static_cast<size_t>(std::min(width - 1, i + 1))];
      const int32_t left = section.columnOf[static_cast<size_t>(std::max(0, i - 1))];
      const int32_t below = section.levelAt(std::min(height - 1, row + 1));
      if (solid && (other(column, above) || other(column, below) || other(left, level) ||
                       other(right, level)))
        pixel = kPenInk;
    }
    if (style.sea && row == seaRow)
      for (int32_t i = 0; i < width; ++i) {
        uint32_t& pixel =
            out[static_cast<size_t>(row) * static_cast<size_t>(width) + static_cast<size_t>(i)];
        if (i % 10 < 6) pixel = mixed(pixel, kSea, 0.8f);
      }
  }
  return out;
}

}  // namespace acre
