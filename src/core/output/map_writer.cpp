#include "output/map_writer.h"

#include <fmt/format.h>
#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>

#include "base/atomic_file.h"
#include "base/version.h"
#include "output/parallel.h"
#include "recipe/json.h"
#include "recipe/validate.h"
#include "world/fingerprint.h"

namespace acre {
namespace {

using Clock = std::chrono::steady_clock;

Error refuse(std::string what, std::string where, std::string accepted) {
  return {Error::Code::InvalidInput, std::move(what), std::move(where), std::move(accepted)};
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

class PngColourSink : public Sink {
 public:
  PngColourSink(const World& world, PictureKind show, PngWriter writer)
      : palette_(world), show_(show), writer_(std::move(writer)) {}
  void beginStrip(const Samples& strip) override {
    pixels_.resize(static_cast<size_t>(strip.inner.width) *
                   static_cast<size_t>(strip.inner.height));
  }
  void prepare(const Samples& strip, int32_t j) override {
    palette_.paintRow(show_, strip, j, Unassigned::Hatched, rowAt(strip, j));
  }
  Status writeStrip(const Samples& strip) override {
    for (int32_t j = 0; j < strip.inner.height; ++j)
      if (Status written = writer_.rowRgb(rowAt(strip, j)); !written) return written;
    return done();
  }
  Status finish() override { return writer_.finish(); }

 private:
  uint32_t* rowAt(const Samples& strip, int32_t j) {
    return pixels_.data() + static_cast<ptrdiff_t>(j) * strip.inner.width;
  }
  Palette palette_;
  PictureKind show_;
  PngWriter writer_;
  std::vector<uint32_t> pixels_;
};

class PngHeightSink : public Sink {
 public:
  PngHeightSink(PngWriter writer, double low, double high)
      : writer_(std::move(writer)), low_(low), scale_(65535 / (high - low)) {}
  Status writeStrip(const Samples& strip) override {
    std::vector<uint16_t> row(static_cast<size_t>(strip.inner.width));
    for (int32_t j = 0; j < strip.inner.height; ++j) {
      const float* heights = strip.heights.data() + (j + 1) * strip.stride() + 1;
      for (size_t i = 0; i < row.size(); ++i) {
        const double value = (static_cast<double>(heights[i]) - low_) * scale_;
        if (!(value >= -0.5 && value < 65535.5))
          return refuse(fmt::format("the height {} at {},{} leaves the range", heights[i],
                                    strip.inner.x + static_cast<int64_t>(i) * strip.inner.step,
                                    strip.inner.z + j * strip.inner.step),
                        "--range", "a range that holds every height of the picture");
        row[i] = static_cast<uint16_t>(value + 0.5);  // NOLINT: at least 0, see above.
      }
      if (Status written = writer_.rowGrey(row.data()); !written) return written;
    }
    return done();
  }
  Status finish() override { return writer_.finish(); }

 private:
  PngWriter writer_;
  double low_;
  double scale_;
};

class CsvSink : public Sink {
 public:
  CsvSink(const World& world, PictureKind show, AtomicFile file)
      : world_(world), show_(show), file_(std::move(file)) {}
  void beginStrip(const Samples& strip) override {
    rows_.assign(static_cast<size_t>(strip.inner.height), {});
  }
  void prepare(const Samples& strip, int32_t j) override {
    std::string& row = rows_[static_cast<size_t>(j)];
    const ptrdiff_t first = (j + 1) * strip.stride() + 1;
    for (int32_t i = 0; i < strip.inner.width; ++i) {
      if (i) row += ',';
      const MaterialIndex material = strip.materials[static_cast<size_t>(first + i)];
      if (show_ == PictureKind::Material)
        row += world_.materialId(material);
      else if (material != kOutside)
        fmt::format_to(std::back_inserter(row), "{}",
                       strip.heights[static_cast<size_t>(first + i)]);
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
  PictureKind show_;
  AtomicFile file_;
  std::vector<std::string> rows_;
};

Status checkRequest(const World& world, const MapRequest& request) {
  const SampleGrid& grid = request.grid;
  const auto sideFits = [](int32_t n) { return n >= 1 && n <= MapRequest::kLongestSide; };
  if (!sideFits(grid.width) || !sideFits(grid.height))
    return refuse(fmt::format("{} x {} cells", grid.width, grid.height), "--size",
                  fmt::format("1 to {} cells a side", MapRequest::kLongestSide));
  if (Status fits = checkGrid(withRim(grid)); !fits) return fits;
  if (request.format == MapFormat::Png16 && request.show != PictureKind::Height)
    return refuse(fmt::format("16-bit pictures cannot show {}", nameOf(request.show)), "--show",
                  "height");
  if (request.format == MapFormat::Csv && request.show == PictureKind::Composite)
    return refuse("a table cannot show composite", "--show", "height, material");
  if (request.range &&
      !(request.range->first < request.range->second && std::isfinite(request.range->first) &&
        std::isfinite(request.range->second)))
    return refuse(fmt::format("{},{} is not a range", request.range->first, request.range->second),
                  "--range", "LOW,HIGH with LOW below HIGH");
  if (request.format == MapFormat::Png16 && world.bounded() &&
      intersection({grid.x, grid.z, grid.width * grid.step, grid.height * grid.step},
                   world.bounds()) !=
          Rect{grid.x, grid.z, grid.width * grid.step, grid.height * grid.step})
    return refuse("part of the picture lies outside the world, where there is no height",
                  "--centre and --size", "an area within the bounds");
  return done();
}

/// Fills the strip (with rim) side by side in tiles, then lets the sink prepare its rows.
bool generateStrip(const World& world, const MapRequest& request, Samples& strip, Sink& sink) {
  const SampleGrid all = withRim(strip.inner);
  const int32_t across = (all.width + Kernels::kTileWidth - 1) / Kernels::kTileWidth;
  const int32_t down = (all.height + Kernels::kTileHeight - 1) / Kernels::kTileHeight;
  std::atomic<bool> whole{true};
  parallelFor(request.threads, across * down, [&](int32_t tile) {
    const int32_t i0 = tile % across * Kernels::kTileWidth;
    const int32_t j0 = tile / across * Kernels::kTileHeight;
    const SampleGrid part{all.x + i0 * all.step, all.z + j0 * all.step, all.step,
                          std::min(Kernels::kTileWidth, all.width - i0),
                          std::min(Kernels::kTileHeight, all.height - j0)};
    const ptrdiff_t corner = static_cast<ptrdiff_t>(j0) * all.width + i0;
    if (!world.sample(part, strip.heights.data() + corner, strip.materials.data() + corner,
                      request.stop, all.width))
      whole = false;
  });
  if (!whole) return false;
  parallelFor(request.threads, strip.inner.height, [&](int32_t j) { sink.prepare(strip, j); });
  return true;
}

Result<std::unique_ptr<Sink>> openSink(const World& world, const MapRequest& request,
                                       const std::filesystem::path& file, MapReport& report) {
  const auto width = static_cast<uint32_t>(request.grid.width);
  const auto height = static_cast<uint32_t>(request.grid.height);
  if (request.format == MapFormat::Csv) {
    auto out = AtomicFile::open(file);
    if (!out) return out.error();
    return std::unique_ptr<Sink>(std::make_unique<CsvSink>(world, request.show, std::move(*out)));
  }
  TextPairs texts = originTexts(world, request.grid, nameOf(request.show));
  if (request.format == MapFormat::Png16) {
    const Range reach = possibleHeights(world.recipe().heights);
    const auto range = request.range.value_or(std::pair(
        std::floor(reach.low), std::max(std::floor(reach.low) + 1, std::ceil(reach.high))));
    report.low = range.first;
    report.high = range.second;
    texts.emplace_back("Height of 0", fmt::format("{}", report.low));
    texts.emplace_back("Height of 65535", fmt::format("{}", report.high));
    auto png = PngWriter::create(file, width, height, PngPixels::Grey16, texts);
    if (!png) return png.error();
    return std::unique_ptr<Sink>(
        std::make_unique<PngHeightSink>(std::move(*png), report.low, report.high));
  }
  auto png = PngWriter::create(file, width, height, PngPixels::Rgb8, texts);
  if (!png) return png.error();
  return std::unique_ptr<Sink>(
      std::make_unique<PngColourSink>(world, request.show, std::move(*png)));
}

}  // namespace

TextPairs originTexts(const World& world, const SampleGrid& grid, const std::string& picture) {
  const Recipe& recipe = world.recipe();
  return {{"Software", fmt::format("Kindred Acre {}", kVersionText)},
          {"Title", recipe.name},
          {"Seed", recipe.seed},
          {"Recipe id", recipeId(recipe).hex()},
          {"Fingerprint", worldFingerprint(world).hex()},
          {"Generation", fmt::format("{}", recipe.generation)},
          {"Picture", picture},
          {"First cell", fmt::format("{},{}", grid.x, grid.z)},
          {"Cells per pixel", fmt::format("{}", grid.step)}};
}

Result<MapReport> writeMap(const World& world, const MapRequest& request,
                           const std::filesystem::path& file) {
  if (const Status fine = checkRequest(world, request); !fine) return fine.error();
  MapReport report;
  report.cells = int64_t{request.grid.width} * request.grid.height;
  auto sink = openSink(world, request, file, report);
  if (!sink) return sink.error();

  constexpr int32_t kStripRows = 4 * Kernels::kTileHeight;
  Samples strip;
  for (int32_t row = 0; row < request.grid.height; row += kStripRows) {
    strip.inner = request.grid;
    strip.inner.z += row * request.grid.step;
    strip.inner.height = std::min(kStripRows, request.grid.height - row);
    const SampleGrid all = withRim(strip.inner);
    strip.heights.resize(static_cast<size_t>(all.width) * static_cast<size_t>(all.height));
    strip.materials.resize(strip.heights.size());
    (*sink)->beginStrip(strip);
    const auto begin = Clock::now();
    const bool whole = generateStrip(world, request, strip, **sink);
    const auto middle = Clock::now();
    if (!whole) return cancelled();
    if (Status written = (*sink)->writeStrip(strip); !written) return written.error();
    const auto end = Clock::now();
    report.generateSeconds += std::chrono::duration<double>(middle - begin).count();
    report.writeSeconds += std::chrono::duration<double>(end - middle).count();
    if (request.progress)
      request.progress(static_cast<double>(row + strip.inner.height) / request.grid.height);
  }
  const auto begin = Clock::now();
  if (const Status finished = (*sink)->finish(); !finished) return finished.error();
  report.writeSeconds += std::chrono::duration<double>(Clock::now() - begin).count();
  return report;
}

}  // namespace acre
