/// Writes a picture from above to a file, in strips, so that memory stays bounded for any size.
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <stop_token>
#include <string>

#include "output/picture.h"
#include "output/png.h"

namespace acre {

enum class MapFormat { Png8, Png16, Csv };

struct MapRequest {
  SampleGrid grid;  ///< 1 ... kLongestSide samples per side.
  PictureKind show = PictureKind::Composite;
  MapFormat format = MapFormat::Png8;  ///< Png16 takes Height only; Csv takes Height and Material.
  /// Heights that 16-bit values 0 and 65,535 stand for; nothing: what the layers could reach.
  std::optional<std::pair<double, double>> range;
  unsigned threads = 1;
  std::stop_token stop;
  std::function<void(double)> progress;  ///< Share done, 0 ... 1, from the caller's thread.

  static constexpr int32_t kLongestSide = 65'536;
};

struct MapReport {
  int64_t cells = 0;
  double generateSeconds = 0;  ///< Wall time of generating and colouring.
  double writeSeconds = 0;     ///< Wall time of encoding and writing.
  double low = 0, high = 0;    ///< Png16: heights of 0 and 65,535.
};

/// Generates and writes; the file appears whole or not at all.
Result<MapReport> writeMap(const World& world, const MapRequest& request,
                           const std::filesystem::path& file);

/// What a file about this world says of its origin: name, seed, recipe id, fingerprint, area, …
TextPairs originTexts(const World& world, const SampleGrid& grid, const std::string& picture);

}  // namespace acre
