/// Regions of a whole grid of samples, patch by patch: the sites that could matter anywhere in a
/// patch are gathered once, and every sample compares itself with those alone.
#pragma once

#include <functional>
#include <memory>
#include <stop_token>
#include <vector>

#include "climate/regions.h"
#include "field/field.h"

namespace acre {

/// How places are shifted before their region is looked up: by `cells` times two fields.
struct RegionShift {
  float cells = 0;
  std::shared_ptr<const Field> x;
  std::shared_ptr<const Field> z;
  bool on() const { return cells != 0 && x && z; }
};

/// One patch of samples. Arrays hold one value per sample, by rows of the patch.
struct RegionPatch {
  int column = 0, row = 0;  ///< Of its first sample in the grid.
  int width = 0, height = 0;
  SiteList sites;                ///< All that matter here, by (j, i).
  std::vector<RegionId> ids;     ///< Of the sites.
  std::vector<uint32_t> hashes;  ///< Of the sites.
  SitePlaces places;
  std::vector<int32_t> own;   ///< Index of the nearest site.
  std::vector<float> first;   ///< Squared distance to it, in squares.
  std::vector<float> second;  ///< And to the next.
  std::vector<float> border;  ///< In squares; empty unless asked for.
};

class RegionGrid {
 public:
  RegionGrid(RegionPlan plan, RegionShift shift) : plan_(plan), shift_(std::move(shift)) {}

  const RegionPlan& plan() const { return plan_; }
  const RegionShift& shift() const { return shift_; }

  /// The place that a cell is looked up at.
  std::pair<Pos, Pos> placeOf(Cell cell) const;
  /// Those of many cells: for each its x and z.
  std::vector<std::pair<Pos, Pos>> placesOf(
      const Kernels& kernels, int count, const Cell* cells) const;

  /// Calls visit for all patches of a grid of at most Kernels::kTileWidth x kTileHeight samples.
  /// reach: how far borders are looked for, in squares, 0 ... 1; 0: not at all. blend: how much
  /// farther than the nearest the sites of a patch must reach, in squares. False when stopped.
  bool visit(const Kernels& kernels, const SampleGrid& grid, float reach, float blend,
      const std::stop_token& stop, const std::function<void(const RegionPatch&)>& visit) const;

 private:
  RegionPlan plan_;
  RegionShift shift_;
};

}  // namespace acre
