/// Writes 32-bit floating-point TIFF files row by row.
#pragma once

#include <filesystem>
#include <memory>

#include "base/result.h"
#include "output/png.h"

namespace acre {

class TiffWriter {
 public:
  /// One channel, deflate with the floating-point predictor, strips of 64 rows; BigTIFF above 2
  /// GiB. The file appears whole at finish() or not at all. texts go into the image description.
  static Result<TiffWriter> create(
      const std::filesystem::path& file, uint32_t width, uint32_t height, const TextPairs& texts);
  TiffWriter(TiffWriter&&) noexcept;
  ~TiffWriter();

  Status row(const float* values);
  Status finish();

 private:
  struct State;
  explicit TiffWriter(std::unique_ptr<State> state);
  std::unique_ptr<State> state_;
};

}  // namespace acre
