#include "audit/census.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>

#include "base/fp_state.h"
#include "recipe/validate.h"

namespace acre {
namespace {

constexpr int kTile = 256;

/// Time of one tile, the best of a few, so that a busy machine is not taken for a slow field.
template <class Make>
double nanosPerCell(Make&& make) {
  using Clock = std::chrono::steady_clock;
  double best = 1e300;
  for (int n = 0; n < 3; ++n) {
    const auto begin = Clock::now();
    make();
    const auto end = Clock::now();
    best = std::min(best, std::chrono::duration<double, std::nano>(end - begin).count());
  }
  return best / (kTile * Kernels::kTileHeight);
}

/// Steps over one cell between neighbours, east and south, at sites of the sample.
class Roughness {
 public:
  void add(float here, float east, float south) {
    const double h = std::floor(static_cast<double>(here));
    wide_ += std::abs(std::floor(static_cast<double>(east)) - h) > 1 ? 1 : 0;
    wide_ += std::abs(std::floor(static_cast<double>(south)) - h) > 1 ? 1 : 0;
    steps_ += 2;
  }
  double share() const {
    return steps_ ? static_cast<double>(wide_) / static_cast<double>(steps_) : 0;
  }

 private:
  uint64_t wide_ = 0;
  uint64_t steps_ = 0;
};

/// Values at (x, z), (x + 1, z) and (x, z + 1) for 4,096 sites, row by row.
template <class Evaluate>
std::optional<Roughness> measureRoughness(const SampleSites& sites, const std::stop_token& stop,
                                          Evaluate&& evaluate, std::vector<float>* values) {
  Roughness rough;
  const int64_t stepX = std::max<int64_t>(1, sites.columns() / 64);
  const int64_t stepZ = std::max<int64_t>(1, sites.rows() / 64);
  for (int64_t j = 0; j < sites.rows(); j += stepZ) {
    if (stop.stop_requested()) return {};
    std::vector<int64_t> x, z;
    for (int64_t i = 0; i < sites.columns(); i += stepX) {
      const Cell cell = sites.at(i, j);
      for (const auto& [dx, dz] : {std::pair(0, 0), std::pair(1, 0), std::pair(0, 1)}) {
        x.push_back(cell.x + dx);
        z.push_back(cell.z + dz);
      }
    }
    const std::vector<int32_t> q(x.size());
    std::vector<float> v(x.size());
    for (size_t from = 0; from < x.size(); from += Kernels::kMostPoints) {
      const int count = static_cast<int>(std::min<size_t>(Kernels::kMostPoints, x.size() - from));
      evaluate(
          Points{count, {x.data() + from, nullptr, z.data() + from}, {q.data(), nullptr, q.data()}},
          v.data() + from);
    }
    for (size_t i = 0; i + 2 < v.size(); i += 3) {
      rough.add(v[i], v[i + 1], v[i + 2]);
      if (values) values->push_back(v[i]);
    }
  }
  return rough;
}

SampleSites sitesOf(const World& world, const Field& field) {
  const Frame& frame = world.recipe().frame;
  return {frame.x, frame.z, field.widestFeature(), world.seed()};
}

void describe(const Distribution& d, FieldFigures& out) {
  out.low = static_cast<double>(d.lowest());
  out.high = static_cast<double>(d.highest());
  out.mean = d.mean();
  out.samples = d.size();
  out.exact = d.exact();
  out.histogram = d.histogram(FieldFigures::kBins);
}

const char* basisWord(Basis basis) {
  switch (basis) {
    case Basis::Gradient:
      return "gradient";
    case Basis::Value:
      return "value";
    case Basis::Simplex:
      return "simplex";
    case Basis::Cellular:
      return "cellular";
    case Basis::White:
      return "white";
    case Basis::Gradient2002:
      return "gradient 2002";
  }
  return "";
}

}  // namespace

std::string sourceWords(const Source& source) {
  if (const auto* noise = std::get_if<NoiseSource>(&source)) {
    const char* shape = noise->fractal == Fractal::Fbm        ? " fBm"
                        : noise->fractal == Fractal::Ridged   ? " ridged"
                        : noise->fractal == Fractal::Billowed ? " billowed"
                                                              : "";
    return std::string(basisWord(noise->basis)) + shape;
  }
  constexpr const char* kWords[] = {"noise",    "constant", "ramp",    "distance", "island",
                                    "picture",  "field",    "terrace", "fold",     "rescale",
                                    "equalise", "latitude", "altitude"};
  static_assert(std::size(kWords) == std::variant_size_v<Source>);
  return kWords[source.index()];
}

std::vector<OctaveFigure> octavesOf(const Layer& layer) {
  std::vector<OctaveFigure> out;
  const auto* noise = std::get_if<NoiseSource>(&layer.source);
  if (!noise) return out;
  double width = noise->width, weight = std::abs(layer.amplitude);
  for (int k = 0; k < noise->usedOctaves(); ++k) {
    out.push_back({width, weight, width < 2});
    width /= noise->lacunarity;
    weight *= noise->gain;
  }
  return out;
}

std::optional<FieldFigures> figuresOf(Engine& engine, const World& world, const FieldRecipe& recipe,
                                      const std::stop_token& stop) {
  const Field* field = world.field(recipe.id);
  if (!field) return {};
  const FpState fp;
  FieldFigures out;
  out.id = recipe.id;
  out.name = recipe.name;
  const auto distribution = engine.distribution(world, *field, stop);
  if (!distribution) return {};
  describe(*distribution, out);
  const Kernels& kernels = world.kernels();
  const auto rough = measureRoughness(
      sitesOf(world, *field), stop,
      [&](const Points& p, float* v) { field->points(kernels, p, v); }, nullptr);
  if (!rough) return {};
  out.rough = rough->share();
  std::vector<float> tile(size_t{kTile} * Kernels::kTileHeight);
  out.nanosPerCell = nanosPerCell([&] {
    field->evaluate(kernels, {0, 0, 1, kTile, Kernels::kTileHeight}, tile.data(), kTile, stop);
  });
  if (stop.stop_requested()) return {};
  return out;
}

std::optional<FieldFigures> layerFigures(const World& world, const FieldRecipe& recipe,
                                         const std::string& layerId, const std::stop_token& stop) {
  const Field* field = world.field(recipe.id);
  const int at = field ? field->stepOf(layerId) : -1;
  const auto layer = std::find_if(recipe.layers.begin(), recipe.layers.end(),
                                  [&](const Layer& l) { return l.id == layerId; });
  if (at < 0 || layer == recipe.layers.end()) return {};
  const FpState fp;
  const auto index = static_cast<size_t>(at);
  const FieldStep& step = field->steps()[index];
  FieldFigures out;
  out.id = layer->id;
  out.name = layer->name;
  out.source = sourceWords(layer->source);
  out.octaves = octavesOf(*layer);
  const Kernels& kernels = world.kernels();
  std::vector<float> values;
  float before[Kernels::kMostPoints];
  const auto rough = measureRoughness(
      sitesOf(world, *field), stop,
      [&](const Points& p, float* v) {
        if (step.reshapes()) field->sumPoints(kernels, p, index, before);
        field->stepValues(kernels, step, p, before, v);
      },
      &values);
  if (!rough) return {};
  out.rough = rough->share();
  describe(Distribution(std::move(values), false), out);
  std::vector<float> tile(size_t{kTile} * Kernels::kTileHeight);
  out.nanosPerCell = nanosPerCell([&] {
    field->evaluateStep(kernels, index, {0, 0, 1, kTile, Kernels::kTileHeight}, tile.data(), kTile,
                        stop);
  });
  if (stop.stop_requested()) return {};
  return out;
}

// ---- materials ---------------------------------------------------------------------------------

namespace {

/// Counts cells as they come.
class Counter {
 public:
  explicit Counter(const World& world)
      : world_(world), counts_(world.recipe().materials.size() + 1) {}

  void add(Cell cell, float height, MaterialIndex material) {
    if (material == kOutside) return;
    low_ = census_.cells ? std::min(low_, height) : height;
    high_ = census_.cells ? std::max(high_, height) : height;
    sum_ += static_cast<double>(height);
    ++census_.cells;
    ++counts_[material];
    if (material == kUnassigned && !census_.firstHole) census_.firstHole = cell;
  }

  AreaCensus finish() {
    AreaCensus out = census_;
    out.low = low_;
    out.high = high_;
    out.mean = out.cells ? sum_ / static_cast<double>(out.cells) : 0;
    out.unassigned = counts_[kUnassigned];
    const auto share = [&](uint64_t n) {
      return out.cells ? static_cast<double>(n) / static_cast<double>(out.cells) : 0.0;
    };
    const auto& materials = world_.recipe().materials;
    for (size_t i = 0; i < materials.size(); ++i)
      out.materials.push_back(
          {materials[i].id, materials[i].name, counts_[i + 1], share(counts_[i + 1])});
    if (out.unassigned)
      out.materials.push_back({kUnassignedId, "Unassigned", out.unassigned, share(out.unassigned)});
    return out;
  }

 private:
  const World& world_;
  std::vector<uint64_t> counts_;
  AreaCensus census_;
  float low_ = 0, high_ = 0;
  double sum_ = 0;
};

}  // namespace

Result<AreaCensus> censusOf(const World& world, const Rect& area, const std::stop_token& stop) {
  constexpr int64_t kMost = int64_t{1} << 28;
  if (area.width < 1 || area.height < 1 || area.width > kMost || area.height > kMost / area.width)
    return Error{Error::Code::InvalidInput, fmt::format("{} x {} cells", area.width, area.height),
                 "--area", "X,Z,WxH with 1 to 2^28 cells"};
  if (area.x < -limits::cell || area.x > limits::cell - area.width || area.z < -limits::cell ||
      area.z > limits::cell - area.height)
    return Error{Error::Code::InvalidInput, "the area leaves the world", "--area",
                 "cells from -2^60 to 2^60"};
  Counter counter(world);
  std::vector<float> heights(size_t{kTile} * kTile);
  std::vector<MaterialIndex> materials(heights.size());
  for (int64_t z = 0; z < area.height; z += kTile)
    for (int64_t x = 0; x < area.width; x += kTile) {
      const SampleGrid grid{area.x + x, area.z + z, 1,
                            static_cast<int32_t>(std::min<int64_t>(kTile, area.width - x)),
                            static_cast<int32_t>(std::min<int64_t>(kTile, area.height - z))};
      if (const Status made = world.sample(grid, heights.data(), materials.data(), stop); !made)
        return made.error();
      for (int32_t j = 0; j < grid.height; ++j)
        for (int32_t i = 0; i < grid.width; ++i) {
          const auto k =
              static_cast<size_t>(j) * static_cast<size_t>(grid.width) + static_cast<size_t>(i);
          counter.add({grid.x + i, grid.z + j}, heights[k], materials[k]);
        }
    }
  return counter.finish();
}

std::optional<AreaCensus> censusOfSample(const World& world, const std::stop_token& stop) {
  const SampleSites sites = sitesOf(world, world.heightField());
  const FpState fp;
  const bool steep = world.bands().needsSlope();
  Counter counter(world);
  const auto width = static_cast<size_t>(sites.columns());
  std::vector<int64_t> x, z;
  for (int64_t j = 0; j < sites.rows(); ++j) {
    if (stop.stop_requested()) return {};
    x.clear();
    z.clear();
    for (int64_t i = 0; i < sites.columns(); ++i) {
      const Cell c = sites.at(i, j);
      x.push_back(c.x);
      z.push_back(c.z);
    }
    if (steep)
      for (const auto& [dx, dz] :
           {std::pair(-1, 0), std::pair(1, 0), std::pair(0, -1), std::pair(0, 1)})
        for (size_t i = 0; i < width; ++i) {
          x.push_back(x[i] + dx);
          z.push_back(z[i] + dz);
        }
    const std::vector<int32_t> q(x.size());
    std::vector<float> h(x.size());
    world.heightField().points(
        world.kernels(),
        {static_cast<int>(x.size()), {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()}},
        h.data());
    for (size_t i = 0; i < width; ++i) {
      const Cell cell{x[i], z[i]};
      const float slope =
          steep ? slopeOf(h[width + i], h[2 * width + i], h[3 * width + i], h[4 * width + i]) : 0;
      counter.add(cell, h[i],
                  world.bounds().contains(cell) ? world.bands().decide(cell, h[i], slope).material
                                                : kOutside);
    }
  }
  return counter.finish();
}

}  // namespace acre
