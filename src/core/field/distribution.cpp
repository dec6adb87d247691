#include "field/distribution.h"

#include <algorithm>
#include <cmath>

#include "base/fp_state.h"

namespace acre {
namespace {
constexpr int64_t kStrata = 256;
// What the kernels take at once: a patch of 16 x 16, and places within some 32,000 cells.
constexpr int64_t kPatch = 16;
static_assert(kPatch * kPatch <= Kernels::kMostPoints);
constexpr int64_t kTogether = 24'000;

int64_t partsOf(int64_t count, int64_t each) {
  return (count + each - 1) / each;
}
}  // namespace

int64_t SampleSites::Axis::pick(int64_t k, uint64_t bits) const {
  const int64_t from = first + k * side;
  const int64_t length = std::min(side, end - from);
  return from + static_cast<int64_t>(bits % static_cast<uint64_t>(length));
}

SampleSites::Axis SampleSites::axisOver(
    const std::optional<AxisBounds>& bounds, double widestFeature) {
  if (!bounds) {
    const int64_t side = static_cast<int64_t>(widestFeature) | 1;
    return {-side * kStrata / 2, side, side * kStrata / 2};
  }
  const int64_t side = std::max<int64_t>(1, (bounds->extent + kStrata - 1) / kStrata);
  return {bounds->min, side, bounds->min + bounds->extent};
}

SampleSites::SampleSites(const std::optional<AxisBounds>& x, const std::optional<AxisBounds>& z,
    double widestFeature, uint64_t seed)
    : x_(axisOver(x, widestFeature)), z_(axisOver(z, widestFeature)), seed_(seed) {
  constexpr int64_t kMost = kStrata * kStrata;
  exact_ = x && z && x->extent <= kMost && z->extent <= kMost && x->extent * z->extent <= kMost;
  if (!exact_) return;
  x_ = {x->min, 1, x->min + x->extent};
  z_ = {z->min, 1, z->min + z->extent};
}

Cell SampleSites::at(int64_t column, int64_t row) const {
  const uint64_t key =
      combine(combine(seed_, static_cast<uint64_t>(column)), static_cast<uint64_t>(row));
  return {x_.pick(column, key & 0xFFFFFFFFu), z_.pick(row, key >> 32)};
}

int64_t SampleSites::patchDeep() const {
  return std::min(std::clamp<int64_t>(kTogether / z_.side, 1, kPatch), rows());
}

int64_t SampleSites::patchWide() const {
  // A whole vector of them at least, however far apart they lie.
  const int64_t deep = patchDeep();
  return std::clamp<int64_t>(kTogether / x_.side, partsOf(kPatch, deep), kPatch * kPatch / deep);
}

int32_t SampleSites::patches() const {
  return static_cast<int32_t>(partsOf(columns(), patchWide()) * partsOf(rows(), patchDeep()));
}

auto SampleSites::patch(int32_t n) const -> Patch {
  const int64_t wide = patchWide(), deep = patchDeep();
  const int64_t across = partsOf(columns(), wide);
  const int64_t i0 = n % across * wide, j0 = n / across * deep;
  Patch out;
  for (int64_t j = j0; j < std::min(j0 + deep, rows()); ++j)
    for (int64_t i = i0; i < std::min(i0 + wide, columns()); ++i) {
      out.cells.push_back(at(i, j));
      out.places.push_back(static_cast<size_t>(j * columns() + i));
    }
  return out;
}

std::optional<Distribution> Distribution::take(const Field& field, const SampleSites& sites,
    const Kernels& kernels, const std::stop_token& stop) {
  const FpState fp;
  std::vector<float> values(static_cast<size_t>(sites.columns() * sites.rows()));
  for (int32_t n = 0; n < sites.patches(); ++n) {
    if (stop.stop_requested()) return {};
    const SampleSites::Patch patch = sites.patch(n);
    std::vector<int64_t> x, z;
    for (const Cell& cell : patch.cells) {
      x.push_back(cell.x);
      z.push_back(cell.z);
    }
    const std::vector<int32_t> q(x.size());
    std::vector<float> some(x.size());
    field.points(kernels,
        {static_cast<int>(x.size()), {x.data(), nullptr, z.data()}, {q.data(), nullptr, q.data()},
            Accuracy::Approximate},
        some.data());
    for (size_t i = 0; i < some.size(); ++i) values[patch.places[i]] = some[i];
  }
  return Distribution(std::move(values), sites.exact());
}

Distribution::Distribution(std::vector<float> values, bool exact)
    : sorted_(std::move(values)), exact_(exact) {
  for (const float v : sorted_) mean_ += static_cast<double>(v);
  mean_ /= static_cast<double>(sorted_.size());
  sortFloats(sorted_);
}

double Distribution::shareBelow(float value) const {
  const auto below = std::lower_bound(sorted_.begin(), sorted_.end(), value) - sorted_.begin();
  return static_cast<double>(below) / static_cast<double>(sorted_.size());
}

double Distribution::shareBetween(float low, float high) const {
  return std::max(0.0, shareBelow(high) - shareBelow(low));
}

float Distribution::valueAt(double share) const {
  const auto n = static_cast<double>(sorted_.size());
  const auto place = static_cast<size_t>(std::floor(std::clamp(share, 0.0, 1.0) * n + 0.5));
  if (place < sorted_.size()) return sorted_[place];
  return std::nextafter(sorted_.back(), HUGE_VALF);
}

std::vector<uint32_t> Distribution::histogram(int bins) const {
  std::vector<uint32_t> counts(static_cast<size_t>(bins));
  const double low = lowest();
  const double scale = highest() > lowest() ? bins / (highest() - low) : 0;
  for (const float v : sorted_) {
    const auto bin = static_cast<int>((v - low) * scale);
    ++counts[static_cast<size_t>(std::clamp(bin, 0, bins - 1))];
  }
  return counts;
}

}  // namespace acre
