#include "output/section.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "output/picture.h"
#include "view/scene.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr uint32_t kInk = 0xFF1F2D3A;
constexpr uint32_t kSea = 0xFF1C6A78;

uint32_t blended(uint32_t under, uint32_t over, float t) {
  uint32_t out = 0xFF000000u;
  for (const int shift : {16, 8, 0}) {
    const auto a = static_cast<float>((under >> shift) & 255),
               b = static_cast<float>((over >> shift) & 255);
    out |= static_cast<uint32_t>(a + (b - a) * t + 0.5f) << shift;  // NOLINT: 0 ... 255.
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
  const std::vector<uint32_t> inks = styleFor(world).inks;
  const BlockClasses classes(world);
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
      if (here == kUnassigned)
        pixel = hatchAt(i, row);
      else if (here < kOpen)
        pixel = inks[here];
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
        if (fine && (p != q || down)) pixel = blended(pixel, kInk, 0.28f);
      }
      if (!style.surface || here == kOutside) continue;
      // Ink where ground and open space part.
      const bool solid = classes.of(here) == BlockClass::Solid;
      const auto other = [&](int32_t c, int32_t l) {
        const MaterialIndex m = section.at(c, l);
        return m != kOutside && (classes.of(m) == BlockClass::Solid) != solid;
      };
      const int32_t right = section.columnOf[static_cast<size_t>(std::min(width - 1, i + 1))];
      const int32_t left = section.columnOf[static_cast<size_t>(std::max(0, i - 1))];
      const int32_t below = section.levelAt(std::min(height - 1, row + 1));
      if (solid && (other(column, above) || other(column, below) || other(left, level) ||
                       other(right, level)))
        pixel = kInk;
    }
    if (style.sea && row == seaRow)
      for (int32_t i = 0; i < width; ++i) {
        uint32_t& pixel =
            out[static_cast<size_t>(row) * static_cast<size_t>(width) + static_cast<size_t>(i)];
        if (i % 10 < 6) pixel = blended(pixel, kSea, 0.8f);
      }
  }
  return out;
}

}  // namespace acre
