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
      evaluate(Points{count, {x.data() + from, nullptr, z.data() + from},
                   {q.data(), nullptr, q.data()}, Accuracy::Approximate},
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
  const Frame& frame = planOf(world).recipe().frame;
  return {frame.x, frame.z, field.widestFeature(), planOf(world).seed()};
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
  constexpr const char* kWords[] = {"noise", "constant", "ramp", "distance", "island", "picture",
      "field", "terrace", "fold", "rescale", "equalise", "latitude", "altitude", "water distance",
      "walk", "fresh water"};
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

std::optional<FieldFigures> figuresOf(
    Engine& engine, const World& world, const FieldRecipe& recipe, const std::stop_token& stop) {
  const Field* field = planOf(world).field(recipe.id);
  if (!field) return {};
  const FpState fp;
  FieldFigures out;
  out.id = recipe.id;
  out.name = recipe.name;
  const auto distribution = engine.distribution(world, *field, stop);
  if (!distribution) return {};
  describe(*distribution, out);
  const Kernels& kernels = planOf(world).kernels();
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
  const Field* field = planOf(world).field(recipe.id);
  const int at = field ? field->stepOf(layerId) : -1;
  const auto layer = std::find_if(
      recipe.layers.begin(), recipe.layers.end(), [&](const Layer& l) { return l.id == layerId; });
  if (at < 0 || layer == recipe.layers.end()) return {};
  const FpState fp;
  const auto index = static_cast<size_t>(at);
  const FieldStep& step = field->steps()[index];
  FieldFigures out;
  out.id = layer->id;
  out.name = layer->name;
  out.source = sourceWords(layer->source);
  out.octaves = octavesOf(*layer);
  const Kernels& kernels = planOf(world).kernels();
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
    field->evaluateStep(
        kernels, index, {0, 0, 1, kTile, Kernels::kTileHeight}, tile.data(), kTile, stop);
  });
  if (stop.stop_requested()) return {};
  return out;
}

}  // namespace acre
