#include "output/map_writer.h"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <bit>
#include <chrono>
#include <cmath>
#include <limits>
#include <map>
#include <nlohmann/json.hpp>

#include "base/atomic_file.h"
#include "base/parallel.h"
#include "base/version.h"
#include "noise/kernels.h"
#include "output/carried_recipe.h"
#include "output/line_files.h"
#include "output/sign_stamps.h"
#include "output/tiff.h"
#include "recipe/json.h"
#include "recipe/object_recipe.h"
#include "recipe/validate.h"
#include "world/world.h"

namespace acre {
namespace {

using Clock = std::chrono::steady_clock;

Rect areaOf(const SampleGrid& grid) {
  return {grid.x, grid.z, grid.width * grid.step, grid.length * grid.step};
}

/// One way of turning strips of samples into a file.
class Sink {
 public:
  virtual ~Sink() = default;
  /// Rows that can be prepared side by side (colours, text); called from many threads.
  virtual void prepare(const Samples&, int32_t) {}
  virtual void beginStrip(const Samples&) {}
  virtual Status writeStrip(const Samples& strip) = 0;
  virtual Status finish() = 0;
};

/// Colours of pixels, each of which may be the mean of some.
class ColourSink : public Sink {
 public:
  /// Takes a row of pixels.
  using Take = std::function<Status(const uint32_t*)>;

  /// end: nothing when the rows go no further; then what there is in the picture is counted.
  ColourSink(const World& world, const MapRequest& request, MapReport& report, Take take,
      std::function<Status()> end = {})
      : world_(world),
        request_(request),
        report_(report),
        palette_(world, request.show, request.style),
        take_(std::move(take)),
        end_(std::move(end)) {
    if (!request.objects) return;
    for (const ObjectKind& kind : planOf(world).recipe().objects->kinds)
      signs_.push_back(signStamp(kind, signSize(kind, static_cast<double>(request.grid.step))));
  }
  void beginStrip(const Samples& strip) override {
    pixels_.resize(
        static_cast<size_t>(strip.inner.width) * static_cast<size_t>(strip.inner.length));
  }
  void prepare(const Samples& strip, int32_t j) override {
    palette_.paintRow(strip, j, Unassigned::Hatched, rowAt(strip, j));
  }
  Status writeStrip(const Samples& strip) override {
    if (!end_) count(strip);
    if (!signs_.empty())
      if (Status stamped = stampAll(strip); !stamped) return stamped;
    const int32_t calm = request_.calm;
    for (int32_t j = 0; j < strip.inner.length; j += calm) {
      uint32_t* row = rowAt(strip, j);
      if (calm > 1) averageInto(row, strip.inner.width, calm);
      if (Status taken = take_(row); !taken) return taken;
    }
    return done();
  }
  Status finish() override { return end_ ? end_() : done(); }

 private:
  /// What of it there is, for what is said beside the picture.
  void count(const Samples& strip) {
    for (int32_t j = 0; j < strip.inner.length; ++j) {
      const ptrdiff_t first = (j + 1) * strip.stride() + 1;
      for (ptrdiff_t at = first; at < first + strip.inner.width; ++at) {
        const MaterialIndex thing = strip.things[static_cast<size_t>(at)];
        if (thing == kOutside) continue;
        if (thing >= report_.things.size() && thing < kOpen)
          report_.things.resize(thing + size_t{1});
        if (thing < kOpen) ++report_.things[thing];
        const auto value = static_cast<double>(strip.values[static_cast<size_t>(at)]);
        report_.lowest = std::min(report_.lowest, value);
        report_.highest = std::max(report_.highest, value);
      }
    }
  }
  /// Signs that reach into the strip; earlier kinds lie over later ones.
  Status stampAll(const Samples& strip) {
    int side = 0;
    for (const SignStamp& sign : signs_) side = std::max(side, sign.side);
    const int64_t step = strip.inner.step, about = side * step;
    const Rect cells = areaOf(strip.inner);
    auto objects = world_.objects().in(grown(cells, about), request_.stop);
    if (!objects) return cancelled();
    std::reverse(objects->begin(), objects->end());
    for (const PlacedObject& one : *objects) {
      const SignStamp& sign = signs_[one.kind];
      const Colour& ink = planOf(world_).recipe().objects->kinds[one.kind].ink;
      const int64_t left = floorDiv(one.cell.x - cells.x, step) - sign.side / 2;
      const int64_t top = floorDiv(one.cell.z - cells.z, step) - sign.side / 2;
      report_.objects += cells.contains(one.cell);
      for (int j = 0; j < sign.side; ++j) {
        if (top + j < 0 || top + j >= strip.inner.length) continue;
        uint32_t* row = rowAt(strip, static_cast<int32_t>(top + j));
        for (int i = 0; i < sign.side; ++i)
          if (left + i >= 0 && left + i < strip.inner.width)
            row[left + i] = blended(row[left + i], ink,
                sign.cover[static_cast<size_t>(j) * static_cast<size_t>(sign.side) +
                           static_cast<size_t>(i)]);
      }
    }
    return done();
  }
  static uint32_t blended(uint32_t under, const Colour& ink, uint32_t cover) {
    uint32_t out = 0xFF;
    for (const auto& [shift, over] :
        {std::pair(16, ink.red), std::pair(8, ink.green), std::pair(0, ink.blue)}) {
      const uint32_t below = under >> shift & 0xFF;
      out = out << 8 | (below * (255 - cover) + uint32_t{over} * cover + 127) / 255;
    }
    return out;
  }
  /// The means of a row and the next ones, at the begin of it.
  void averageInto(uint32_t* row, int32_t width, int32_t calm) const {
    std::array<uint32_t, size_t{MapRequest::kCalmest} * MapRequest::kCalmest> some;
    for (int32_t i = 0; i < width / calm; ++i) {
      for (int32_t k = 0; k < calm; ++k)
        std::copy_n(row + ptrdiff_t{k} * width + ptrdiff_t{i} * calm, calm,
            some.begin() + ptrdiff_t{k} * calm);
      row[i] = meanOf(some.data(), calm * calm);
    }
  }
  uint32_t* rowAt(const Samples& strip, int32_t j) {
    return pixels_.data() + static_cast<ptrdiff_t>(j) * strip.inner.width;
  }
  const World& world_;
  const MapRequest& request_;
  MapReport& report_;
  Palette palette_;
  Take take_;
  std::function<Status()> end_;
  std::vector<SignStamp> signs_;  ///< By kind.
  std::vector<uint32_t> pixels_;
};

/// Numbers of a row of a strip, without its rim.
const float* numbersOf(const Samples& strip, int32_t j) {
  return strip.values.data() + (j + 1) * strip.stride() + 1;
}
bool outside(const Samples& strip, int32_t i, int32_t j) {
  return strip.things[static_cast<size_t>((j + 1) * strip.stride() + 1 + i)] == kOutside;
}

/// Maps numbers to 16 bits and refuses what leaves the range.
struct Grey16 {
  double low;
  double scale;
  Grey16(double from, double to) : low(from), scale(65535 / (to - from)) {}

  Status row(const Samples& strip, int32_t j, std::vector<uint16_t>& out) const {
    const float* values = numbersOf(strip, j);
    out.resize(static_cast<size_t>(strip.inner.width));
    for (size_t i = 0; i < out.size(); ++i) {
      const double value = (static_cast<double>(values[i]) - low) * scale;
      if (!(value >= -0.5 && value < 65535.5))
        return invalidInput(fmt::format("the value {} at {},{} leaves the range", values[i],
                                strip.inner.x + static_cast<int64_t>(i) * strip.inner.step,
                                strip.inner.z + j * strip.inner.step),
            "--range", "a range that holds every value of the picture");
      out[i] = static_cast<uint16_t>(value + 0.5);  // NOLINT: at least 0, see above.
    }
    return done();
  }
};

class PngGreySink : public Sink {
 public:
  PngGreySink(PngWriter writer, Grey16 grey) : writer_(std::move(writer)), grey_(grey) {}
  Status writeStrip(const Samples& strip) override {
    for (int32_t j = 0; j < strip.inner.length; ++j) {
      if (Status mapped = grey_.row(strip, j, row_); !mapped) return mapped;
      if (Status written = writer_.rowGrey(row_.data()); !written) return written;
    }
    return done();
  }
  Status finish() override { return writer_.finish(); }

 private:
  PngWriter writer_;
  Grey16 grey_;
  std::vector<uint16_t> row_;
};

class PgmSink : public Sink {
 public:
  PgmSink(AtomicFile file, Grey16 grey) : file_(std::move(file)), grey_(grey) {}
  Status writeStrip(const Samples& strip) override {
    for (int32_t j = 0; j < strip.inner.length; ++j) {
      if (Status mapped = grey_.row(strip, j, row_); !mapped) return mapped;
      std::string bytes;
      for (const uint16_t v : row_) {  // The format's own order: high byte first.
        bytes += static_cast<char>(v >> 8);
        bytes += static_cast<char>(v & 255);
      }
      if (Status written = file_.write(bytes); !written) return written;
    }
    return done();
  }
  Status finish() override { return file_.commit(); }

 private:
  AtomicFile file_;
  Grey16 grey_;
  std::vector<uint16_t> row_;
};

/// Rows of floats with NaN outside the world.
const float* floatRow(const Samples& strip, int32_t j, std::vector<float>& row) {
  const float* values = numbersOf(strip, j);
  row.assign(values, values + strip.inner.width);
  for (int32_t i = 0; i < strip.inner.width; ++i)
    if (outside(strip, i, j)) row[static_cast<size_t>(i)] = std::numeric_limits<float>::quiet_NaN();
  return row.data();
}

class TiffSink : public Sink {
 public:
  explicit TiffSink(TiffWriter writer) : writer_(std::move(writer)) {}
  Status writeStrip(const Samples& strip) override {
    for (int32_t j = 0; j < strip.inner.length; ++j)
      if (Status written = writer_.row(floatRow(strip, j, row_)); !written) return written;
    return done();
  }
  Status finish() override { return writer_.finish(); }

 private:
  TiffWriter writer_;
  std::vector<float> row_;
};

class RawSink : public Sink {
 public:
  RawSink(AtomicFile file, AtomicFile header, std::string description)
      : file_(std::move(file)), header_(std::move(header)), description_(std::move(description)) {}
  Status writeStrip(const Samples& strip) override {
    for (int32_t j = 0; j < strip.inner.length; ++j) {
      const float* values = floatRow(strip, j, row_);
      std::string bytes(row_.size() * sizeof(float), '\0');
      for (size_t i = 0; i < row_.size(); ++i) {
        const auto word = std::bit_cast<uint32_t>(values[i]);
        for (size_t k = 0; k < sizeof(float); ++k)
          bytes[sizeof(float) * i + k] = static_cast<char>((word >> (8 * k)) & 255);
      }
      if (Status written = file_.write(bytes); !written) return written;
    }
    return done();
  }
  Status finish() override {
    if (Status written = header_.write(description_); !written) return written;
    return AtomicFile::commit({&file_, &header_});
  }

 private:
  AtomicFile file_;
  AtomicFile header_;
  std::string description_;
  std::vector<float> row_;
};

/// Contours of the whole grid, and the rivers and objects over it.
class LineSink : public Sink {
 public:
  LineSink(const World& world, const MapRequest& request, AtomicFile file, MapReport& report)
      : world_(world), request_(request), file_(std::move(file)), report_(report) {
    sheet_.grid = request.grid;
    sheet_.interval = request.style.contours;
    std::string what;
    for (const auto& [word, there] : {std::pair("contours", sheet_.interval > 0),
             std::pair("rivers", request.rivers), std::pair("objects", request.objects)})
      if (there) what += (what.empty() ? "" : ", ") + std::string(word);
    sheet_.texts = originTexts(world, request.grid, what);
  }
  Status writeStrip(const Samples& strip) override {
    for (int32_t j = 0; j < strip.inner.length; ++j) {
      const float* row = floatRow(strip, j, row_);
      values_.insert(values_.end(), row, row + strip.inner.width);
    }
    return done();
  }
  Status finish() override {
    if (sheet_.interval > 0)
      if (Status drawn = drawContours(); !drawn) return drawn;
    if (request_.rivers) {
      auto rivers = riverPaths(world_, areaOf(sheet_.grid), request_.stop);
      if (!rivers) return rivers.error();
      sheet_.rivers = std::move(*rivers);
    }
    if (request_.objects) {
      const auto objects = world_.objects().in(areaOf(sheet_.grid), request_.stop);
      if (!objects) return cancelled();
      sheet_.objects = objectPoints(world_, *objects);
    }
    report_.objects = sheet_.objects.size();
    report_.lines = sheet_.contours.size();
    report_.rivers = sheet_.rivers.size();
    if (Status written =
            file_.write(request_.format == MapFormat::GeoJson ? geoJsonOf(sheet_) : svgOf(sheet_));
        !written)
      return written;
    return file_.commit();
  }

 private:
  Status drawContours() {
    const SampleGrid& grid = sheet_.grid;
    const auto [low, high] = std::minmax_element(values_.begin(), values_.end());
    const double rise = low == high ? 0 : static_cast<double>(*high) - static_cast<double>(*low);
    if (const double levels = rise / sheet_.interval; levels > kMostContourLevels)
      return invalidInput(fmt::format("lines every {} are {:.0f} levels between {} and {}",
                              sheet_.interval, levels, *low, *high),
          "--contours",
          fmt::format("at least {} here, for {} levels at most", rise / kMostContourLevels,
              kMostContourLevels));
    sheet_.contours =
        contours(values_.data(), grid.width, grid.length, grid.width, sheet_.interval);
    return done();
  }

  const World& world_;
  const MapRequest& request_;
  LineSheet sheet_;
  AtomicFile file_;
  MapReport& report_;
  std::vector<float> row_;
  std::vector<float> values_;
};

/// A line "# KEY: VALUE" each.
std::string commentOf(const TextPairs& texts) {
  std::string out;
  for (const auto& [key, value] : texts) out += fmt::format("# {}: {}\n", key, oneLine(value));
  return out;
}

class CsvSink : public Sink {
 public:
  CsvSink(const World& world, const Picture& show, AtomicFile file)
      : world_(world), show_(show), file_(std::move(file)) {}
  void beginStrip(const Samples& strip) override {
    rows_.assign(static_cast<size_t>(strip.inner.length), {});
  }
  void prepare(const Samples& strip, int32_t j) override {
    std::string& row = rows_[static_cast<size_t>(j)];
    const ptrdiff_t first = (j + 1) * strip.stride() + 1;
    for (int32_t i = 0; i < strip.inner.width; ++i) {
      if (i) row += ',';
      const MaterialIndex thing = strip.things[static_cast<size_t>(first + i)];
      if (show_.kind == PictureKind::Material)
        row += planOf(world_).catalogue().materialId(thing);
      else if (show_.kind == PictureKind::Biome)
        row += planOf(world_).catalogue().biomeId(thing);
      else if (show_.kind == PictureKind::Region && thing != kOutside)
        fmt::format_to(std::back_inserter(row), "{}", strip.marks[static_cast<size_t>(first + i)]);
      else if (show_.kind == PictureKind::Uncovered && thing != kOutside)
        row += thing == kUnassigned ? '1' : '0';
      else if (thing != kOutside)
        fmt::format_to(std::back_inserter(row), "{}", strip.values[static_cast<size_t>(first + i)]);
    }
    row += '\n';
  }
  Status writeStrip(const Samples&) override {
    for (const std::string& row : rows_)
      if (Status written = file_.write(row); !written) return written;
    return done();
  }
  Status finish() override { return file_.commit(); }

 private:
  const World& world_;
  Picture show_;
  AtomicFile file_;
  std::vector<std::string> rows_;
};

bool is16Bit(MapFormat format) {
  return format == MapFormat::Png16 || format == MapFormat::Pgm;
}

Status checkLines(const World& world, const MapRequest& request) {
  if (!isLines(request.format)) {
    if (request.rivers)
      return invalidInput("this format has no lines", "--rivers", "the formats svg and geojson");
    return done();
  }
  if (!(request.style.contours > 0) && !request.rivers && !request.objects)
    return invalidInput("lines without an interval", "--contours",
        "altitudes between lines, above 0, or --rivers or --objects");
  if (!request.rivers) return done();
  if (!planOf(world).water())
    return invalidInput("this world has no rivers", "--rivers",
        "worlds of the kinds overland and voxel with a stage Water that is on");
  const Rect area = areaOf(request.grid);
  if (std::max(area.width, area.length) > kLongestRiverSide)
    return invalidInput(fmt::format("{} x {} cells with rivers", area.width, area.length),
        "--size, --step", fmt::format("at most {} cells a side", kLongestRiverSide));
  return done();
}

Status checkObjects(const World& world, const MapRequest& request) {
  if (!request.objects) return done();
  if (!world.objects().any())
    return invalidInput(
        "this world has no objects", "--objects", "worlds with kinds of objects that are on");
  const Rect area = areaOf(request.grid);
  if (isLines(request.format)) {
    constexpr int64_t kLongest = MapRequest::kLongestObjectSide;
    if (std::max(area.width, area.length) > kLongest)
      return invalidInput(fmt::format("{} x {} cells with objects", area.width, area.length),
          "--size, --step", fmt::format("at most {} cells a side", kLongest));
    return done();
  }
  if (request.format != MapFormat::Png8)
    return invalidInput(
        "this format has no signs", "--objects", "the formats png, svg and geojson");
  if (request.grid.step > MapRequest::kCoarsestSigns)
    return invalidInput(fmt::format("{} cells a pixel with objects", request.grid.step), "--step",
        fmt::format("1 to {}", MapRequest::kCoarsestSigns));
  return done();
}

Status checkRequest(const World& world, const MapRequest& request) {
  const SampleGrid& grid = request.grid;
  const int32_t longest =
      isLines(request.format) ? MapRequest::kLongestSvgSide : MapRequest::kLongestSide;
  const auto sideFits = [&](int32_t n) { return n >= 1 && n <= longest; };
  if (!sideFits(grid.width) || !sideFits(grid.length))
    return invalidInput(fmt::format("{} x {} cells", grid.width, grid.length), "--size",
        fmt::format("1 to {} cells a side", longest));
  if (Status fits = checkGrid(withRim(grid)); !fits) return fits;
  if (Status known = checkPicture(world, request.show); !known) return known;
  const bool csvThings =
      request.format == MapFormat::Csv && request.show.kind != PictureKind::Composite;
  if (request.format != MapFormat::Png8 && !request.show.isData() && !csvThings)
    return invalidInput(fmt::format("this format cannot show {}", nameOf(request.show)), "--show",
        request.format == MapFormat::Csv
            ? "any picture but composite"
            : "height, base, surface, grey, slope, border, flow, density:KIND, field:ID, "
              "layer:ID");
  if (Status lines = checkLines(world, request); !lines) return lines;
  if (Status signs = checkObjects(world, request); !signs) return signs;
  if (!(request.style.contours >= 0 && request.style.contours <= 1e6))
    return invalidInput(
        fmt::format("{}", request.style.contours), "--contours", "above 0, at most 1e6");
  if (request.range &&
      !(request.range->first < request.range->second && std::isfinite(request.range->first) &&
          std::isfinite(request.range->second)))
    return invalidInput(
        fmt::format("{},{} is not a range", request.range->first, request.range->second), "--range",
        "LOW,HIGH with LOW below HIGH");
  if (request.range && !is16Bit(request.format))
    return invalidInput(
        "only pictures of 16 bits have a range", "--range", "the formats png16 and pgm");
  if (request.calm != 1) {
    if (request.calm < 1 || request.calm > MapRequest::kCalmest || grid.step % request.calm != 0)
      return invalidInput(
          fmt::format("{} x {} samples a pixel of {} cells", request.calm, request.calm, grid.step),
          "--calm", fmt::format("1 to {}, a divisor of --step", MapRequest::kCalmest));
    if (request.format != MapFormat::Png8)
      return invalidInput("this format holds no colours", "--calm", "the format png");
    if (request.objects)
      return invalidInput("signs are drawn on single cells", "--calm", "without --objects");
  }
  if (request.comment && request.format != MapFormat::Csv)
    return invalidInput("this format says where it lies without it", "--comment", "the format csv");
  if (is16Bit(request.format) && !request.range && request.show.kind >= PictureKind::Slope)
    return invalidInput(
        fmt::format("the reach of {} is not known beforehand", nameOf(request.show)), "--range",
        "LOW,HIGH, the values that 0 and 65535 stand for");
  if (is16Bit(request.format) && planOf(world).bounded() &&
      intersection(areaOf(grid), planOf(world).bounds()) != areaOf(grid))
    return invalidInput("part of the picture lies outside the world, where there is no height",
        "--centre and --size", "an area within the bounds");
  return done();
}

/// Where the samples of a picture lie: calm x calm of them about the middle of every pixel.
SampleGrid samplesOf(const MapRequest& request) {
  SampleGrid grid = request.grid;
  if (request.calm == 1) return grid;
  grid.step /= request.calm;
  const int64_t before = request.grid.step / 2 - grid.step / 2;
  grid.x -= before;
  grid.z -= before;
  grid.width *= request.calm;
  grid.length *= request.calm;
  return grid;
}

/// Fills the strip (with rim) side by side in tiles, then lets the sink prepare its rows.
bool generateStrip(const World& world, const MapRequest& request, Samples& strip, Sink& sink) {
  const SampleGrid all = withRim(strip.inner);
  const int32_t across = (all.width + Kernels::kTileWidth - 1) / Kernels::kTileWidth;
  const int32_t down = (all.length + Kernels::kTileHeight - 1) / Kernels::kTileHeight;
  std::atomic<bool> whole{true};
  parallelFor(request.threads, across * down, [&](int32_t tile) {
    const int32_t i0 = tile % across * Kernels::kTileWidth;
    const int32_t j0 = tile / across * Kernels::kTileHeight;
    const SampleGrid part{all.x + i0 * all.step, all.z + j0 * all.step, all.step,
        std::min(Kernels::kTileWidth, all.width - i0),
        std::min(Kernels::kTileHeight, all.length - j0)};
    const ptrdiff_t corner = static_cast<ptrdiff_t>(j0) * all.width + i0;
    const SampleArrays out = arraysOf(strip, corner);
    if (!samplePicture(world, request.show, part, out, request.stop)) whole = false;
  });
  if (!whole) return false;
  parallelFor(request.threads, strip.inner.length, [&](int32_t j) { sink.prepare(strip, j); });
  return true;
}

/// What a raw file holds, in JSON.
std::string rawHeader(const World& world, const MapRequest& request) {
  nlohmann::ordered_json header = {{"format", "raw"}, {"type", "float32"},
      {"order", "little-endian, rows along x, then z"}, {"width", request.grid.width},
      {"height", request.grid.length}, {"outside", "NaN"}};
  for (const auto& [key, value] : originTexts(world, request.grid, nameOf(request.show)))
    header[key] = value;
  return header.dump(2) + "\n";
}

Result<std::unique_ptr<Sink>> openSink(const World& world, const MapRequest& request,
    const std::filesystem::path& file, MapReport& report) {
  const auto width = static_cast<uint32_t>(request.grid.width);
  const auto height = static_cast<uint32_t>(request.grid.length);
  TextPairs texts = originTexts(world, request.grid, nameOf(request.show));
  if (request.calm > 1) texts.emplace_back("Averaged", calmText(request.calm));
  if (is16Bit(request.format)) {
    const Range reach = possibleSurface(planOf(world).recipe());
    const auto range = request.range.value_or(std::pair(
        std::floor(reach.low), std::max(std::floor(reach.low) + 1, std::ceil(reach.high))));
    report.low = range.first;
    report.high = range.second;
    texts.emplace_back("Height of 0", fmt::format("{}", report.low));
    texts.emplace_back("Height of 65535", fmt::format("{}", report.high));
  }
  const Grey16 grey(report.low, report.high);
  if (request.format == MapFormat::Png8 || request.format == MapFormat::Png16) {
    const bool colour = request.format == MapFormat::Png8;
    texts.emplace_back(kRecipeText, recipeToJson(planOf(world).recipe()));
    auto png =
        PngWriter::create(file, width, height, colour ? PngPixels::Rgb8 : PngPixels::Grey16, texts);
    if (!png) return png.error();
    if (!colour) return std::unique_ptr<Sink>(std::make_unique<PngGreySink>(std::move(*png), grey));
    const auto to = std::make_shared<PngWriter>(std::move(*png));
    return std::unique_ptr<Sink>(std::make_unique<ColourSink>(
        world, request, report, [to](const uint32_t* row) { return to->rowRgb(row); },
        [to] { return to->finish(); }));
  }
  if (request.format == MapFormat::Tiff) {
    auto tiff = TiffWriter::create(file, width, height, texts);
    if (!tiff) return tiff.error();
    return std::unique_ptr<Sink>(std::make_unique<TiffSink>(std::move(*tiff)));
  }
  auto out = AtomicFile::open(file);
  if (!out) return out.error();
  switch (request.format) {
    case MapFormat::Pgm: {
      std::string head = "P5\n";
      head += commentOf(texts);
      head += fmt::format("{} {}\n65535\n", width, height);
      if (Status written = out->write(head); !written) return written.error();
      return std::unique_ptr<Sink>(std::make_unique<PgmSink>(std::move(*out), grey));
    }
    case MapFormat::Raw: {
      auto header = AtomicFile::open(file.string() + ".json");
      if (!header) return header.error();
      return std::unique_ptr<Sink>(std::make_unique<RawSink>(
          std::move(*out), std::move(*header), rawHeader(world, request)));
    }
    case MapFormat::Svg:
    case MapFormat::GeoJson:
      return std::unique_ptr<Sink>(
          std::make_unique<LineSink>(world, request, std::move(*out), report));
    default:
      if (request.comment)
        if (Status written = out->write(commentOf(texts)); !written) return written.error();
      return std::unique_ptr<Sink>(std::make_unique<CsvSink>(world, request.show, std::move(*out)));
  }
}

}  // namespace

std::optional<MapFormat> mapFormatNamed(const std::string& name) {
  static const std::map<std::string, MapFormat> kNames = {{"png", MapFormat::Png8},
      {"png16", MapFormat::Png16}, {"csv", MapFormat::Csv}, {"tif", MapFormat::Tiff},
      {"tiff", MapFormat::Tiff}, {"pgm", MapFormat::Pgm}, {"raw", MapFormat::Raw},
      {"svg", MapFormat::Svg}, {"geojson", MapFormat::GeoJson}};
  const auto found = kNames.find(name);
  return found == kNames.end() ? std::nullopt : std::optional(found->second);
}

std::string calmText(int32_t calm) {
  return fmt::format("the colours of {} cells a pixel", calm * calm);
}

TextPairs originTexts(const World& world, const SampleGrid& grid, const std::string& picture) {
  const Recipe& recipe = planOf(world).recipe();
  TextPairs texts = {{"Software", fmt::format("Kindred Acre {}", kVersionText)},
      {"Title", recipe.name}, {"Seed", recipe.seed}, {"Recipe id", recipeId(recipe).hex()},
      {"Generation", fmt::format("{}", recipe.generation)}, {"Picture", picture},
      {"First cell", fmt::format("{},{}", grid.x, grid.z)},
      {"Cells per pixel", fmt::format("{}", grid.step)}};
  for (const std::string& what : planOf(world).approximations(grid.step))
    texts.emplace_back("Approximate", what);
  return texts;
}

namespace {

Status pour(const World& world, const MapRequest& asked, Sink& sink, MapReport& report) {
  MapRequest request = asked;
  // What a picture so coarse leaves out is not looked for between its samples either.
  if (request.calm > 1 && !world.objectCells().any(request.grid.step))
    request.show.beforeObjects = true;
  report.cells = int64_t{request.grid.width} * request.grid.length;
  const int32_t stripRows = 4 * Kernels::kTileHeight / request.calm * request.calm;
  const SampleGrid all = samplesOf(request);
  Samples strip;
  // Rivers alone ask for no heights.
  const bool samples = !isLines(request.format) || request.style.contours > 0;
  for (int32_t row = 0; samples && row < all.length; row += stripRows) {
    strip.inner = all;
    strip.inner.z += row * all.step;
    strip.inner.length = std::min(stripRows, all.length - row);
    strip.resize(request.show);
    sink.beginStrip(strip);
    const auto begin = Clock::now();
    const bool whole = generateStrip(world, request, strip, sink);
    const auto middle = Clock::now();
    if (!whole) return cancelled();
    if (Status written = sink.writeStrip(strip); !written) return written;
    const auto end = Clock::now();
    report.generateSeconds += std::chrono::duration<double>(middle - begin).count();
    report.writeSeconds += std::chrono::duration<double>(end - middle).count();
    if (request.progress)
      request.progress(static_cast<double>(row + strip.inner.length) / all.length);
  }
  const auto begin = Clock::now();
  if (Status finished = sink.finish(); !finished) return finished;
  report.writeSeconds += std::chrono::duration<double>(Clock::now() - begin).count();
  return done();
}

}  // namespace

Result<MapReport> writeMap(
    const World& world, const MapRequest& request, const std::filesystem::path& file) {
  if (const Status fine = checkRequest(world, request); !fine) return fine.error();
  MapReport report;
  auto sink = openSink(world, request, file, report);
  if (!sink) return sink.error();
  if (const Status poured = pour(world, request, **sink, report); !poured) return poured.error();
  return report;
}

Result<MapReport> paintMap(const World& world, const MapRequest& request,
    const std::function<Status(const uint32_t*)>& take) {
  if (const Status fine = checkRequest(world, request); !fine) return fine.error();
  if (request.format != MapFormat::Png8)
    return invalidInput("this format holds no colours", "format", "png");
  MapReport report;
  ColourSink sink(world, request, report, take);
  if (const Status poured = pour(world, request, sink, report); !poured) return poured.error();
  return report;
}

}  // namespace acre
