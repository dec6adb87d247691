/// Greyscale pictures that are laid on the world.
#pragma once

#include <filesystem>
#include <memory>
#include <vector>

#include "base/hash.h"
#include "base/result.h"

namespace acre {

struct GreyPicture {
  static constexpr int kLeastSide = 2;
  static constexpr int kMostSide = 8192;

  int width = 0;
  int height = 0;
  std::vector<uint16_t> pixels;  ///< Row by row; 8-bit files times 257.
  Digest digest;                 ///< Of size and pixels.
};

/// Reads a greyscale PNG of 8 or 16 bits (colour and transparency are refused), 2 to 8192 pixels a
/// side. where: JSON pointer, for errors.
Result<std::shared_ptr<const GreyPicture>> readGreyPicture(
    const std::filesystem::path& file, const std::string& where);

}  // namespace acre
