/// How the values of a field are spread over the whole world: a sample, sorted.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

#include "field/field.h"

namespace acre {

/// The cells that stand for a world when it is measured. Endless axes: 256 strata about the origin,
/// each as wide as the widest feature (made odd), one hashed cell in each of the 256 x 256. Bounded
/// worlds: strata over the bounds, or every cell when there are no more than 65,536.
/// [Stratified sampling after Cochran, "Sampling Techniques", 1977, ch. 5.]
class SampleSites {
 public:
  SampleSites(const std::optional<AxisBounds>& x, const std::optional<AxisBounds>& z,
      double widestFeature, uint64_t seed);

  int64_t rows() const { return z_.count(); }
  int64_t columns() const { return x_.count(); }
  bool exact() const { return exact_; }
  int64_t apart() const { return x_.side; }  ///< Cells from one column to about the next.
  Cell at(int64_t column, int64_t row) const;

  /// Some of the sites that lie close together, for one batch of the kernels where strata are not
  /// too wide for it.
  struct Patch {
    std::vector<Cell> cells;
    std::vector<size_t> places;  ///< Of each, row by row of all sites.
  };
  /// How many there are; each site is in one of them.
  int32_t patches() const;
  /// REQUIRES: 0 <= n < patches().
  Patch patch(int32_t n) const;

 private:
  struct Axis {
    int64_t first;
    int64_t side;
    int64_t end;
    int64_t count() const { return (end - first + side - 1) / side; }
    int64_t pick(int64_t k, uint64_t bits) const;
  };
  static Axis axisOver(const std::optional<AxisBounds>& bounds, double widestFeature);

  /// Strata of a patch.
  int64_t patchWide() const;
  int64_t patchDeep() const;

  Axis x_;
  Axis z_;
  uint64_t seed_;
  bool exact_;
};

class Distribution {
 public:
  /// Nothing when stopped.
  static std::optional<Distribution> take(const Field& field, const SampleSites& sites,
      const Kernels& kernels, const std::stop_token& stop = {});
  /// values: at least one.
  Distribution(std::vector<float> values, bool exact);

  /// Share of the sample in the half-open range, 0 ... 1.
  double shareBetween(float low, float high) const;
  double shareBelow(float value) const;
  /// The value that a share of the sample lies below; just above the highest for 1.
  float valueAt(double share) const;

  float lowest() const { return sorted_.front(); }
  float highest() const { return sorted_.back(); }
  double mean() const { return mean_; }
  size_t size() const { return sorted_.size(); }
  bool exact() const { return exact_; }  ///< Every cell of the world was counted.
  const std::vector<float>& sorted() const { return sorted_; }
  /// Counts in `bins` equal parts of [lowest, highest].
  std::vector<uint32_t> histogram(int bins) const;

 private:
  std::vector<float> sorted_;
  double mean_ = 0;
  bool exact_ = false;
};

}  // namespace acre
