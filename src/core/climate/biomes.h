/// The Biomes stage: which biome a cell is of, its region, and the height that the biomes make of
/// the base height.
#pragma once

#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

#include "base/hash.h"
#include "climate/chart.h"
#include "climate/islets.h"
#include "climate/region_grid.h"
#include "climate/relief.h"

namespace acre {

/// Everything that the stage depends on.
struct BiomeInputs {
  const Biomes& biomes;
  AxisScale scaleX;
  AxisScale scaleY;
  std::vector<float> sliceEnds;
  double seaLevel;
  uint64_t seed;                         ///< Of the world.
  std::shared_ptr<const Field> heights;  ///< The base heights.
  std::shared_ptr<const Field> x;        ///< The fields of the chart.
  std::shared_ptr<const Field> y;
  std::shared_ptr<const Field> warpX;  ///< Nothing unless named.
  std::shared_ptr<const Field> warpZ;
};

/// Immutable and thread-safe; a point stage: exact at every step.
class BiomeStage {
 public:
  static Digest keyOf(const BiomeInputs& inputs);
  /// inputs: of a validated recipe whose Biomes are on. Errors name the JSON pointer.
  static Result<std::shared_ptr<const BiomeStage>> compile(
      const BiomeInputs& inputs, const Kernels& kernels);

  /// Where the results of a grid go; all share the stride, what is nullptr is not asked for.
  struct Out {
    float* heights = nullptr;
    BiomeIndex* biomes = nullptr;
    uint32_t* regions = nullptr;  ///< Hashes of the regions; 0 without regions.
    float* borders = nullptr;     ///< Cells to the nearest border, warped; see borderReach().
    ptrdiff_t stride = 0;
  };
  /// base: base heights of the grid, of the same stride. False when stopped.
  bool evaluate(const Kernels& kernels, const SampleGrid& grid, const float* base, const Out& out,
      const std::stop_token& stop = {}) const;

  /// One region at a cell, with what it brings.
  struct RegionPart {
    RegionId id;
    Cell site;
    float weight = 1;  ///< As in regionShares().
    float part = 1;
    ReliefAt relief;
  };
  /// Everything about one cell.
  struct At {
    float x = 0, y = 0;  ///< Chart values that were asked: of the cell, or of its region's site.
    Chart::Decision rule;
    BiomeIndex biome = kNoBiome;
    bool drawn = false;      ///< By weights.
    bool givenBack = false;  ///< An islet: it is of the neighbour's region.
    std::optional<RegionAt> region;
    Cell site;                      ///< Of the region.
    float shiftX = 0, shiftZ = 0;   ///< By warping, in cells.
    float borderCells = 0;          ///< To the nearest border.
    std::vector<RegionPart> blend;  ///< Regions that shape the height, the own one first.
    ReliefAt relief;
    float noise = 0;  ///< Of the roughness.
    float height = 0;
  };
  At at(Cell cell, float base, Accuracy accuracy = Accuracy::Exact) const;

  /// Chart values of scattered cells: their own, or those at the sites of their regions.
  void chartValues(const Kernels& kernels, int count, const Cell* cells, float* x, float* y,
      Accuracy accuracy) const;
  /// Heights and, unless null, biomes of scattered cells.
  void scattered(const Kernels& kernels, int count, const Cell* cells, const float* base,
      float* heights, BiomeIndex* biomes, Accuracy accuracy) const;

  const Chart& chart() const { return *chart_; }
  /// Cells across of the pieces that are given back; 0: none are.
  int islets() const { return islets_; }
  bool hasRegions() const { return grid_.has_value(); }
  /// How far borders are looked for, in cells: a region's mean side.
  double borderReach() const { return size_; }
  /// True when regions, and not the cell's own values, decide.
  bool byRegion() const { return hasRegions() && choice_ != Regions::Choice::Cells; }
  bool shapesHeight() const { return shapes_; }
  const RegionGrid& regions() const { return *grid_; }

 private:
  struct Known;
  struct GivenBack;
  bool givenBack(const Kernels& kernels, const SampleGrid& grid, GivenBack& out,
      const std::stop_token& stop) const;
  BiomeIndex drawn(uint32_t hash, int slice) const;
  BiomeIndex ofRegion(const Known& region, float altitude) const;
  ReliefAt reliefOf(Known& region, float altitude) const;
  /// stop: see Points.
  void learn(const Kernels& kernels, const std::vector<RegionId>& ids, Accuracy accuracy,
      std::vector<Known>& out, const std::stop_token* stop = nullptr) const;
  void scatteredByRegion(const Kernels& kernels, int count, const Cell* cells, const float* base,
      float* heights, BiomeIndex* biomes, Accuracy accuracy) const;
  bool tile(const Kernels& kernels, const SampleGrid& grid, const float* base, const Out& out,
      const std::stop_token& stop) const;
  bool regionTile(const Kernels& kernels, const SampleGrid& grid, const float* base, const Out& out,
      ReliefAt* reliefs, const std::stop_token& stop) const;

  std::unique_ptr<const Chart> chart_;
  std::shared_ptr<const Field> heights_, x_, y_;
  std::optional<RegionGrid> grid_;
  Regions::Choice choice_ = Regions::Choice::Climate;
  double size_ = 0;
  int islets_ = 0;
  float blend_ = 0;          ///< Border width in squares.
  std::vector<float> odds_;  ///< Sums of the biomes' weights, the last one all.
  bool shapes_ = false;
  bool rough_ = false;
  float sea_ = 0;
  float coast_ = 0;
  AltitudeKnots knots_;
  Reliefs reliefs_;
  std::optional<ReliefTable> table_;  ///< Where the cell's own values decide.
  NoisePlan roughness_;
};

}  // namespace acre
