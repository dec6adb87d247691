/// Writes a picture from above to a file, in strips, so that memory stays bounded for any size.
#pragma once

#include <cmath>
#include <filesystem>
#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "output/picture.h"
#include "output/png.h"

namespace acre {

enum class MapFormat {
  Png8,    ///< Colours.
  Png16,   ///< Numbers, 0 ... 65,535 over a range.
  Csv,     ///< A bare grid, one row per z; empty outside the world.
  Tiff,    ///< Numbers as 32-bit floating point; NaN outside the world.
  Pgm,     ///< As Png16, in the portable grey map format.
  Raw,     ///< Little-endian 32-bit floating point, with FILE.json to describe it.
  Svg,     ///< Contours and rivers as lines.
  GeoJson  ///< The same.
};
constexpr bool isLines(MapFormat format) {
  return format == MapFormat::Svg || format == MapFormat::GeoJson;
}
/// The format that an ending or a name of --format stands for ("png", "png16", "csv", …).
std::optional<MapFormat> mapFormatNamed(const std::string& name);

struct MapRequest {
  SampleGrid grid;  ///< 1 ... kLongestSide samples per side.
  Picture show;
  MapFormat format = MapFormat::Png8;  ///< All but Png8 need numbers; Csv takes Material as well.
  Style style;                         ///< Of Png8; its contour interval also of lines.
  /// Of Png8: colours averaged over this many samples a side of every pixel, of which a coarse
  /// picture else takes one: no single cell sparkles. The samples lie step / calm cells apart, and
  /// have objects only where those of the picture itself would.
  int32_t calm = 1;
  bool rivers = false;   ///< Of lines: the middles of rivers too.
  bool objects = false;  ///< Of Png8 their signs, at steps up to kCoarsestSigns; of lines points.
  /// Values that 16-bit 0 and 65,535 stand for; nothing: what the layers could reach.
  std::optional<std::pair<double, double>> range;
  bool comment = false;  ///< Csv: lines "# KEY: VALUE" of the picture's origin before the rows.
  unsigned threads = 1;
  std::stop_token stop;
  std::function<void(double)> progress;  ///< Share done, 0 ... 1, from the caller's thread.

  static constexpr int32_t kLongestSide = 65'536;
  static constexpr int32_t kLongestSvgSide = 4'096;  ///< Lines need the whole grid at once.
  static constexpr int64_t kCoarsestSigns = 4;
  static constexpr int32_t kCalmest = 4;
  static constexpr int64_t kLongestObjectSide = 4'096;  ///< In cells, of lines with objects.
};

struct MapReport {
  int64_t cells = 0;
  double generateSeconds = 0;  ///< Wall time of generating and colouring.
  double writeSeconds = 0;     ///< Wall time of encoding and writing.
  double low = 0, high = 0;    ///< 16-bit formats: values of 0 and 65,535.
  size_t lines = 0;            ///< Contours written.
  size_t rivers = 0;           ///< Lines of rivers written.
  size_t objects = 0;          ///< Signs or points of objects.
  // Of paintMap():
  std::vector<int64_t> things;  ///< Samples by what is there, as in Samples::things.
  double lowest = HUGE_VAL, highest = -HUGE_VAL;  ///< Of their values; within the world.
};

/// Generates and writes; the file appears whole or not at all.
Result<MapReport> writeMap(
    const World& world, const MapRequest& request, const std::filesystem::path& file);

/// The pixels that it writes as Png8, row by row from the top, 0xFFRRGGBB.
Result<MapReport> paintMap(const World& world, const MapRequest& request,
    const std::function<Status(const uint32_t*)>& take);

/// What calm does, in words for a legend and a file.
std::string calmText(int32_t calm);

/// What a file about this world says of its origin: name, seed, recipe id, fingerprint, area, …
TextPairs originTexts(const World& world, const SampleGrid& grid, const std::string& picture);

}  // namespace acre
