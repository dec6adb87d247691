/// PNG files: 8-bit colour and 16-bit grey, row by row, with text chunks.
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "base/result.h"

namespace acre {

using TextPairs = std::vector<std::pair<std::string, std::string>>;

enum class PngPixels {
  Rgb8,   ///< Rows of 0xAARRGGBB words; the alpha is left out.
  Grey16  ///< Rows of 16-bit values.
};

/// Writes one picture; the file appears whole on finish() or not at all.
class PngWriter {
 public:
  /// Sizes up to 2^31 - 1. The texts become iTXt chunks (UTF-8), long ones compressed.
  static Result<PngWriter> create(const std::filesystem::path& file, uint32_t width,
      uint32_t height, PngPixels pixels, const TextPairs& texts);
  PngWriter(PngWriter&&) noexcept;
  PngWriter& operator=(PngWriter&&) noexcept;
  ~PngWriter();

  Status rowRgb(const uint32_t* argb);
  Status rowGrey(const uint16_t* values);
  Status finish();

 private:
  struct State;
  PngWriter();
  std::unique_ptr<State> state_;
};

/// A whole picture of 0xAARRGGBB words, row by row.
Status writePicture(const std::filesystem::path& file, int32_t width, int32_t height,
    const std::vector<uint32_t>& argb, const TextPairs& texts);

}  // namespace acre
