#include "audit/chart_sample.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "audit/area_census.h"
#include "base/fp_state.h"
#include "climate/biomes.h"
#include "world/world.h"

namespace acre {
namespace {

double correlationOf(const std::vector<float>& x, const std::vector<float>& y) {
  const auto n = static_cast<double>(x.size());
  double sumX = 0, sumY = 0;
  for (size_t i = 0; i < x.size(); ++i) {
    sumX += static_cast<double>(x[i]);
    sumY += static_cast<double>(y[i]);
  }
  double xx = 0, yy = 0, xy = 0;
  for (size_t i = 0; i < x.size(); ++i) {
    const double dx = static_cast<double>(x[i]) - sumX / n;
    const double dy = static_cast<double>(y[i]) - sumY / n;
    xx += dx * dx;
    yy += dy * dy;
    xy += dx * dy;
  }
  return xx > 0 && yy > 0 ? xy / std::sqrt(xx * yy) : 0;
}

}  // namespace

std::optional<ChartSample> chartSample(const World& world, const std::stop_token& stop) {
  const FpState fp;
  const Biomes& biomes = world.recipe().biomes;
  const Field* fieldX = world.field(world.biomes() ? biomes.x.field : kTemperatureId);
  const Field* fieldY = world.field(world.biomes() ? biomes.y.field : kMoistureId);
  if (!fieldX || !fieldY) return {};
  const SampleSites sites = worldSites(world);
  ChartSample out;
  const auto all = static_cast<size_t>(sites.columns() * sites.rows());
  out.cells.resize(all);
  for (std::vector<float>* values : {&out.x, &out.y, &out.altitude}) values->resize(all);
  for (int32_t n = 0; n < sites.patches(); ++n) {
    if (stop.stop_requested()) return {};
    const SampleSites::Patch patch = sites.patch(n);
    const int count = static_cast<int>(patch.cells.size());
    std::vector<float> some[3];
    for (std::vector<float>& values : some) values.resize(patch.cells.size());
    if (world.biomes()) {
      world.columns().chartValues(count, patch.cells.data(), some[0].data(), some[1].data(),
          some[2].data(), Accuracy::Approximate);
    } else {
      std::vector<int64_t> x, z;
      for (const Cell& cell : patch.cells) {
        x.push_back(cell.x);
        z.push_back(cell.z);
      }
      const std::vector<int32_t> q(x.size());
      const Points places{count, {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()},
          Accuracy::Approximate};
      fieldX->points(world.kernels(), places, some[0].data());
      fieldY->points(world.kernels(), places, some[1].data());
      world.heightField().points(world.kernels(), places, some[2].data());
    }
    for (size_t i = 0; i < patch.cells.size(); ++i) {
      const size_t at = patch.places[i];
      out.cells[at] = patch.cells[i];
      out.x[at] = some[0][i], out.y[at] = some[1][i], out.altitude[at] = some[2][i];
    }
  }
  out.correlation = correlationOf(out.x, out.y);
  const auto [lowX, highX] = std::minmax_element(out.x.begin(), out.x.end());
  const auto [lowY, highY] = std::minmax_element(out.y.begin(), out.y.end());
  out.lowX = *lowX, out.highX = *highX, out.lowY = *lowY, out.highY = *highY;
  return out;
}

double chartPerCell(const World& world, const ChartSample& sample) {
  constexpr size_t kPlaces = 1024;
  constexpr int64_t kApart = 8;
  const Chart& chart = world.biomes()->chart();
  const double spanX = chart.x().high - chart.x().low, spanY = chart.y().high - chart.y().low;
  const Field* fieldX = world.field(world.recipe().biomes.x.field);
  const Field* fieldY = world.field(world.recipe().biomes.y.field);
  std::vector<double> slopes;
  for (size_t i = 0; i < sample.size(); i += std::max<size_t>(1, sample.size() / kPlaces)) {
    const Cell c = sample.cells[i];
    const int64_t x[3] = {c.x, c.x + kApart, c.x}, z[3] = {c.z, c.z, c.z + kApart};
    const int32_t q[3] = {};
    const Points places{3, {x, nullptr, z}, {q, nullptr, q}, Accuracy::Approximate};
    float a[3], b[3];
    fieldX->points(world.kernels(), places, a);
    fieldY->points(world.kernels(), places, b);
    double squared = 0;
    for (const int k : {1, 2}) {
      const double da = static_cast<double>(a[k] - a[0]) / spanX / kApart;
      const double db = static_cast<double>(b[k] - b[0]) / spanY / kApart;
      squared += da * da + db * db;
    }
    slopes.push_back(std::sqrt(squared));
  }
  if (slopes.empty()) return 0;
  std::nth_element(
      slopes.begin(), slopes.begin() + static_cast<ptrdiff_t>(slopes.size() / 2), slopes.end());
  return slopes[slopes.size() / 2];
}

std::vector<uint64_t> chartCounts(
    const Chart& chart, const ChartSample& sample, const Kernels& kernels, int biomes) {
  std::vector<uint64_t> counts(static_cast<size_t>(biomes) + 1);
  std::vector<BiomeIndex> found(sample.size());
  chart.lookUp(kernels, static_cast<int>(sample.size()), sample.x.data(), sample.y.data(),
      sample.altitude.data(), found.data());
  for (const BiomeIndex biome : found) ++counts[biome];
  return counts;
}

ChartSample equalised(const ChartSample& sample, bool alongX, const AxisScale& axis) {
  ChartSample out = sample;
  std::vector<float>& values = alongX ? out.x : out.y;
  std::vector<float> sorted = values;
  sortFloats(sorted);
  const QuantileTable table(sorted);
  table.apply(plainKernels(), values.data(), static_cast<int>(values.size()));
  for (float& v : values)
    v = v * static_cast<float>(axis.high - axis.low) + static_cast<float>(axis.low);
  out.correlation = correlationOf(out.x, out.y);
  return out;
}

Layer equaliseLayer(const AxisScale& axis, const FieldRecipe& field) {
  std::vector<std::string> ids;
  for (const Layer& layer : field.layers) ids.push_back(layer.id);
  Layer layer;
  layer.id = freshId("equalise", ids);
  layer.name = "Equalise";
  layer.source = EqualiseSource{};
  layer.amplitude = axis.high - axis.low;
  layer.offset = axis.low;
  return layer;
}

ChartDensity densityOf(const ChartSample& sample, const Chart& chart, int slice, int size) {
  ChartDensity out;
  out.size = size;
  const auto side = static_cast<size_t>(size);
  std::vector<float> raw(side * side);
  const auto place = [&](const AxisScale& axis, float v) {
    const double at = (static_cast<double>(v) - axis.low) / (axis.high - axis.low) * size;
    return static_cast<size_t>(std::clamp(at, 0.0, size - 1.0));
  };
  for (size_t i = 0; i < sample.size(); ++i) {
    if (slice >= 0 && chart.decide(sample.x[i], sample.y[i], sample.altitude[i]).slice != slice)
      continue;
    raw[place(chart.y(), sample.y[i]) * side + place(chart.x(), sample.x[i])] += 1;
  }
  // Binomial weights along both axes, twice: smooth enough for contours, sharp enough for shapes.
  out.counts = raw;
  for (int pass = 0; pass < 4; ++pass) {
    std::vector<float> next(out.counts.size());
    const bool along = pass % 2 == 0;
    const size_t step = along ? 1 : side;
    for (size_t j = 0; j < side; ++j)
      for (size_t i = 0; i < side; ++i) {
        const size_t at = j * side + i, k = along ? i : j;
        const float before = out.counts[k > 0 ? at - step : at];
        const float after = out.counts[k + 1 < side ? at + step : at];
        next[at] = 0.25f * before + 0.5f * out.counts[at] + 0.25f * after;
      }
    out.counts = std::move(next);
  }
  std::vector<float> falling = out.counts;
  std::sort(falling.begin(), falling.end(), std::greater<>());
  const double all = std::accumulate(falling.begin(), falling.end(), 0.0);
  constexpr double kShares[3] = {0.5, 0.9, 0.99};
  double sum = 0;
  for (size_t i = 0, k = 0; i < falling.size() && k < 3; ++i) {
    sum += static_cast<double>(falling[i]);
    while (k < 3 && sum >= kShares[k] * all) out.levels[k++] = falling[i];
  }
  return out;
}

}  // namespace acre
