/// The stage Water: rivers and lakes as cells.
#pragma once

#include <memory>
#include <stop_token>
#include <vector>

#include "climate/land_shaper.h"
#include "water/courses.h"

namespace acre {

/// Immutable but for what it remembers, and thread-safe. Ground is lowered, never raised.
///
/// A structure stage: exact up to steps of kExactStep, left out beyond.
class WaterStage : public LandShaper {
 public:
  static constexpr int64_t kExactStep = 16;

  static Digest keyOf(const DrainageInputs& inputs, const Digest& land);
  static Result<std::shared_ptr<const WaterStage>> compile(
      const DrainageInputs& inputs, const MemoLimit& memo);

  const Drainage& drainage() const { return drainage_; }

  int64_t exactStep() const override { return kExactStep; }
  bool shape(const SampleGrid& grid, const float* before, const Out& out,
      const std::stop_token& stop) const override;
  bool shapeApart(const SampleGrid& grid, const float* before, const Out& out,
      const std::stop_token& stop) const override;
  void shape(int count, const Cell* cells, const float* before, float* heights, WaterAt* out,
      Accuracy accuracy) const override;

  uint64_t bytes() const { return drainage_.bytes() + beds_.bytes() + courses_->bytes(); }

 private:
  struct CourseTile {
    std::vector<CoursePiece> pieces;
    uint64_t bytes() const;
  };
  /// All that lies in the cells of a tile.
  struct BedTile;
  WaterStage(const DrainageInputs& inputs, const MemoLimit& memo)
      : drainage_(inputs, memo), beds_(memo) {}
  std::shared_ptr<const BedTile> bed(BrickTile at, const std::stop_token& stop) const;
  BedTile makeBed(BrickTile at, const std::stop_token& stop) const;
  /// What the water about each sample makes of it, before its neighbours are looked at. False when
  /// stopped.
  bool alone(
      const SampleGrid& grid, const float* before, WaterAt* out, const std::stop_token& stop) const;
  void aloneIn(const BedTile& tile, const Rect& cells, const SampleGrid& grid, int32_t firstX,
      int32_t firstZ, int32_t wide, int32_t length, const float* before, WaterAt* out) const;
  WaterAt aloneAt(Cell cell, float before, const std::stop_token& stop) const;
  /// Ground beside water is no lower than it, unless it was.
  void hold(WaterAt& at, float before, const WaterAt* const (&beside)[4]) const;

  Drainage drainage_;
  std::shared_ptr<const Courses> lines_;
  std::unique_ptr<Memo<BrickTile, CourseTile>> courses_;
  Memo<BrickTile, BedTile> beds_;
  float seaLevel_ = 0;
  float deepest_ = 0, valley_ = 0, sides_ = 0;
};

}  // namespace acre
