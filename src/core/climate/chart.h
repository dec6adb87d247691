/// The climate chart: which biome two values have at an altitude.
#pragma once

#include <memory>
#include <vector>

#include "base/indices.h"
#include "noise/kernels.h"
#include "recipe/recipe.h"

namespace acre {

/// Everything that a chart depends on.
struct ChartInputs {
  const Biomes& biomes;
  AxisScale x;
  AxisScale y;
  double seaLevel;
  std::vector<float> sliceEnds;  ///< Altitudes of the ends of all slices but the last.
};

/// Immutable and thread-safe. Values belong to half-open ranges, the outermost ones endless, so
/// that each belongs exactly once. With areas the first rule that covers a value takes it; with
/// ideal points the lowest score does, of equals the first in the list.
class Chart {
 public:
  /// inputs: of a validated recipe.
  explicit Chart(const ChartInputs& inputs);
  Chart(const Chart&) = delete;
  Chart& operator=(const Chart&) = delete;

  /// What decided a value.
  struct Decision {
    int slice = 0;  ///< From low to high.
    int area = -1;  ///< Index of the rule among the recipe's areas, or -1.
    BiomeIndex biome = kNoBiome;
  };
  Decision decide(float x, float y, float altitude) const;

  /// Where the biome would be another: the next change to either side along one of x, y, altitude.
  struct Change {
    enum class Along { X, Y, Altitude } along = Along::X;
    bool below = true;  ///< The value lies below `at`.
    float at = 0;       ///< The edge; it belongs to the upper side.
    BiomeIndex to = kNoBiome;
  };
  /// Changes from a value, at most one to each side of each axis, the nearest first as a share of
  /// the chart's width; altitudes last. With ideal points along x and y found to 1/1024 of the
  /// chart, and none of altitude but the slices' ends.
  std::vector<Change> changes(float x, float y, float altitude) const;

  /// True when the rule decides nothing anywhere: earlier ones, or whole slices, cover all of it.
  bool hidden(int area) const;

  /// Biomes of any number of values.
  void lookUp(const Kernels& kernels, int count, const float* x, const float* y,
      const float* altitude, BiomeIndex* biomes) const;

  /// Slices of any number of altitudes.
  void slicesOf(const Kernels& kernels, int count, const float* altitude, uint16_t* slices) const;

  int slices() const { return static_cast<int>(fixed_.size()); }
  /// Ends of all slices but the last; they never fall.
  const std::vector<float>& sliceEnds() const { return ends_; }
  /// The biome that a whole slice is of, or none.
  BiomeIndex fixedBiome(int slice) const { return fixed_[static_cast<size_t>(slice)]; }
  /// Share of a slice of the chart, between the ends of both axes, that no rule covers.
  double uncovered(int slice) const;
  const AxisScale& x() const { return x_; }
  const AxisScale& y() const { return y_; }

 private:
  /// The areas of one slice, cut along all their edges.
  struct Table {
    std::vector<float> x, y;     // Rising edges.
    std::vector<int16_t> rules;  // By rows: index of the area, or -1.
    std::vector<BiomeIndex> biomes;
    size_t at(size_t i, size_t j) const { return j * (x.size() + 1) + i; }
  };
  struct Points : IdealSet {
    std::vector<float> px, py, pa, sa, shares;
    std::vector<BiomeIndex> biomes;
  };
  void cutAreas(const Biomes& biomes, size_t slice);
  void joinSlices();
  void placePoints(const Biomes& biomes, double seaLevel);

  AxisScale x_, y_;
  std::vector<float> ends_;
  std::vector<BiomeIndex> fixed_;
  std::vector<Table> tables_;  // Per slice; empty with ideal points.
  // All slices cut along the edges of all, one after the other, unless that would grow too large:
  // then values need not be parted by slice to be looked up.
  std::vector<float> allX_, allY_;
  std::vector<BiomeIndex> all_;
  Points points_;
};

/// The value of inner edge k of n equal parts of an axis.
float partEdge(const AxisScale& axis, int k, int n);

/// Index of a biome by id; none when it is unknown.
BiomeIndex biomeIndex(const Biomes& biomes, const std::string& id);

}  // namespace acre
