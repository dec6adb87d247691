/// The stage Water: rivers and lakes as cells.
#pragma once

#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

#include "climate/land_shaper.h"
#include "water/courses.h"

namespace acre {

/// Immutable but for what it remembers, and thread-safe. Ground is lowered, never raised.
///
/// A structure stage: exact up to steps of kExactStep; up to kFarthestStep an indication, left out
/// beyond.
class WaterStage : public LandShaper {
 public:
  static constexpr int64_t kExactStep = 16;
  static constexpr int64_t kFarthestStep = 64;
  /// Bytes that are in use for a cell while a grid is shaped, its own height included.
  static constexpr uint64_t kWorkPerCell = sizeof(WaterAt) + 10 * sizeof(float);

  static Digest keyOf(const DrainageInputs& inputs, const Digest& land);
  static Result<std::shared_ptr<const WaterStage>> compile(
      const DrainageInputs& inputs, const MemoLimit& memo);

  const Drainage& drainage() const { return drainage_; }
  /// Ways through obstacles; nullptr where there are none.
  const CourseWays* ways() const { return ways_.get(); }
  /// How they are drawn; nothing when stopped.
  std::optional<std::vector<CoursePiece>> waysOf(
      CourseWays::At region, const std::stop_token& stop) const;

  /// Whether all that lies in some cells was found before and is still remembered: then it is there
  /// at once.
  /// step: how far apart they are looked at, at most kFarthestStep.
  bool knows(const Rect& cells, int64_t step) const;
  /// The pieces of courses that belong to a brick, as they are drawn; nothing when stopped.
  std::optional<std::vector<CoursePiece>> coursesOf(Brick b, const std::stop_token& stop) const;

  /// What samples so far apart are told of: this, or a network that is as many times coarser as
  /// drainage().land().scale() says and has the wider rivers alone. REQUIRES: step <=
  /// kFarthestStep.
  const WaterStage& over(int64_t step) const;
  /// Least width of a river that it tells of, in cells of the world.
  double narrowest() const;

  int64_t exactStep() const override { return kExactStep; }
  int64_t farthestStep() const override { return kFarthestStep; }
  bool shape(const SampleGrid& grid, const float* before, const Out& out,
      const std::stop_token& stop) const override;
  void shape(int count, const Cell* cells, const float* before, float* heights, WaterAt* out,
      Accuracy accuracy) const override;

  uint32_t markOf(const WaterAt& at) const override;

  uint64_t bytes() const;

 private:
  struct CourseTile {
    std::vector<CoursePiece> pieces;
    uint64_t bytes() const;
  };
  /// All that lies in the cells of a tile, and a piece of it.
  struct BedTile;
  struct BedPiece;
  WaterStage(const DrainageInputs& inputs, const MemoLimit& memo)
      : drainage_(inputs, memo), beds_(memo) {}
  static Result<std::shared_ptr<WaterStage>> make(
      const DrainageInputs& inputs, const MemoLimit& memo);
  /// How far the valley of a river reaches beyond its banks.
  float valleyOf(float radius) const;
  bool indicate(const SampleGrid& grid, const float* before, const Out& out,
      const std::stop_token& stop) const;
  std::shared_ptr<const CourseTile> courses(
      BrickTile at, Drainage::Reader& net, const std::stop_token& stop) const;
  std::shared_ptr<const CourseTile> courses(CourseWays::At at, const std::stop_token& stop) const;
  /// What one piece of work has met of the network: the next tile of beds asks for nearly the same.
  struct Readers;
  std::shared_ptr<const BedTile> bed(BrickTile at, Readers& readers) const;
  void lay(
      const CoursePiece& piece, Brick owner, bool course, const Rect& cells, BedTile& tile) const;
  BedTile makeBed(BrickTile at, Readers& readers) const;
  struct Patch;
  struct Near;
  /// What the water about each sample makes of it, before its neighbours are looked at. False when
  /// stopped.
  bool alone(
      const SampleGrid& grid, const float* before, WaterAt* out, const std::stop_token& stop) const;
  bool aloneEach(const std::vector<Cell>& cells, const float* before, WaterAt* out,
      const std::stop_token& stop) const;
  /// The same of the samples in one tile; before, out: of the first, in rows of stride.
  void aloneIn(const BedTile& tile, const Patch& patch, const float* before, WaterAt* out,
      ptrdiff_t stride) const;
  void measure(const BedTile& tile, const BedPiece& piece, const Patch& patch, Near& near) const;
  void join(int32_t piece, size_t sample, Near& near) const;
  WaterAt untouched(float before) const;
  void decide(const BedTile& tile, const Near& near, size_t sample, size_t brick, float before,
      WaterAt& at) const;
  /// found: of each sample, row by row.
  void store(const SampleGrid& grid, const std::vector<WaterAt>& found, const Out& out) const;
  /// Ground beside water is no lower than it, unless it was; and what is held there is told if that
  /// is asked.
  void hold(WaterAt& at, float before, const WaterAt* const (&beside)[4], bool tellHeld) const;
  /// The same of all that was found at some cells: cellOf(n), its ground before[n]. beside(n,
  /// side): what was found beside it, nullptr where that is still to be asked for. all: what is
  /// held is told of everyone. False when stopped.
  template <class CellOf, class Beside>
  bool holdAll(std::vector<WaterAt>& found, const float* before, Accuracy accuracy, bool all,
      CellOf&& cellOf, Beside&& beside, const std::stop_token& stop) const;

  Drainage drainage_;
  std::shared_ptr<const Courses> lines_;
  std::shared_ptr<const CourseWays> ways_;
  std::unique_ptr<Memo<BrickTile, CourseTile>> courses_;
  std::unique_ptr<Memo<CourseWays::At, CourseTile>> wayPieces_;
  Memo<BrickTile, BedTile> beds_;
  bool remembers_ = true;
  std::shared_ptr<const WaterStage> coarser_[2];  ///< 2 and 4 times; nothing in these themselves.
  float seaLevel_ = 0;
  float deepest_ = 0, valley_ = 0, sides_ = 0;
};

}  // namespace acre
