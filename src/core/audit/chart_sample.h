/// What the world brings to the climate chart: the values at cells spread over it.
#pragma once

#include <optional>
#include <stop_token>
#include <vector>

#include "field/distribution.h"
#include "world/engine.h"

namespace acre {

class Chart;  // climate/chart.h

/// Chart values and base heights of the sites of the world's sample, row by row.
struct ChartSample {
  std::vector<float> x;
  std::vector<float> y;
  std::vector<float> altitude;
  std::vector<Cell> cells;
  /// Pearson's r of x and y: 0 independent, +-1 on a line. 0 when one of them is constant.
  double correlation = 0;
  float lowX = 0, highX = 0, lowY = 0, highY = 0;  ///< What they reach.

  size_t size() const { return x.size(); }
};

/// Takes the sample. Where regions decide, chart values are those at the sites of the regions that
/// the cells belong to. Without biomes, of temperature and moisture.
/// Nothing when stopped, or when there is neither.
std::optional<ChartSample> chartSample(const World& world, const std::stop_token& stop = {});

/// Share of the chart's width that a cell of ground crosses, the median over the sample; 0 on level
/// fields. What widths on the chart are in cells.
/// REQUIRES: world.biomes().
double chartPerCell(const World& world, const ChartSample& sample);

/// Cells of a sample that each biome takes, index 0 those that no rule covers.
std::vector<uint64_t> chartCounts(
    const Chart& chart, const ChartSample& sample, const Kernels& kernels, int biomes);

/// The sample as it would be if an axis were equalised: each value moved to where its rank lies
/// between the ends of the axis.
ChartSample equalised(const ChartSample& sample, bool alongX, const AxisScale& axis);

/// The layer that does so in a recipe: the sum of the layers before it through its own
/// distribution, spread over the axis.
Layer equaliseLayer(const AxisScale& axis, const FieldRecipe& field);

/// Counts of a sample over a chart of size x size cells, by rows from low y, what lies beyond the
/// ends in the outermost; and the counts above which 50, 90 and 99 % of the sample lie.
struct ChartDensity {
  int size = 0;
  std::vector<float> counts;  ///< Smoothed over neighbouring cells.
  float levels[3] = {};
};
/// slice: of the chart, or -1 for all.
ChartDensity densityOf(const ChartSample& sample, const Chart& chart, int slice, int size);

}  // namespace acre
