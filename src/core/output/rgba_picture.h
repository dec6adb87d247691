/// Small pictures with transparency, whole in memory.
#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "output/shading.h"

namespace acre {

struct RgbaPicture {
  int32_t width = 0, height = 0;
  std::vector<uint32_t> pixels;  ///< 0xAARRGGBB, row by row; colours not multiplied by alpha.

  uint32_t& at(int32_t x, int32_t y) {
    return pixels[static_cast<size_t>(y) * static_cast<size_t>(width) + static_cast<size_t>(x)];
  }
  uint32_t at(int32_t x, int32_t y) const {
    return pixels[static_cast<size_t>(y) * static_cast<size_t>(width) + static_cast<size_t>(x)];
  }
};

/// Any PNG of 1 to mostSide pixels a side. Refusals name the file, and `accepted` if it is no such
/// picture.
Result<RgbaPicture> readRgba(const std::filesystem::path& file, uint64_t mostBytes,
    int32_t mostSide, const std::string& accepted);
/// The same of what a file holds. name: for refusals.
Result<RgbaPicture> rgbaOf(
    std::string_view bytes, const std::string& name, int32_t mostSide, const std::string& accepted);
/// As a PNG; the file appears whole or not at all.
Status writeRgba(const RgbaPicture& picture, const std::filesystem::path& file);

/// `over`, by its alpha, on an opaque colour.
constexpr uint32_t laidOver(uint32_t under, uint32_t over) {
  const uint32_t cover = over >> 24;
  if (cover == 255) return over;
  uint32_t out = 0xFF;
  for (int shift = 16; shift >= 0; shift -= 8) {
    const uint32_t below = under >> shift & 0xFF, above = over >> shift & 0xFF;
    out = out << 8 | (below * (255 - cover) + above * cover + 127) / 255;
  }
  return out;
}

}  // namespace acre
