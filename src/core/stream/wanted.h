/// Which chunks belong around a viewpoint: geometry alone, no threads.
#pragma once

#include <array>
#include <map>
#include <set>
#include <vector>

#include "base/coords.h"

namespace acre {

/// How far chunks are wanted, in cells from the viewpoint to the nearest cell of a chunk.
struct Reach {
  int64_t wanted = 0;
  int64_t margin = 0;  ///< So much farther a chunk stays that is there already.
  int levels = 1;      ///< Detail levels, 1 and up.
  int64_t detail = 0;  ///< Ground of level L is cut up within detail * 2^(L - 1) cells.
  /// From the viewpoint to where it will soon be: chunks around the whole way are wanted too, and
  /// whatever is there stays within the lead's length in all directions, so that a turn loses
  /// nothing. At most 4 * wanted long, or the way has gaps.
  Cell lead = {};
};

/// Follows a viewpoint. In worlds whose chunks are divided along y the set is one of columns (cy
/// 0); all chunks of a column are wanted together. With one level a step costs what changed,
/// whatever the distance; with several it costs as much as there are chunks, of which there are
/// few.
class WantedSet {
 public:
  /// Most chunks that are wanted at once; beyond that the nearest ones are.
  static constexpr size_t kMost = 65'536;
  /// The same in columns.
  static size_t mostOf(const ChunkLayout& layout);

  WantedSet(ChunkLayout layout, const Rect& bounds)
      : layout_(layout), bounds_(bounds), most_(mostOf(layout)) {}

  /// What a step changed. A chunk that is neither wanted nor within the margin is in none.
  struct Change {
    std::vector<ChunkPos> come;  ///< Wanted from now on.
    std::vector<ChunkPos> fade;  ///< No longer wanted, but within the margin.
    std::vector<ChunkPos> go;    ///< Beyond the margin; or on ground cut up otherwise now.
  };
  Change move(Cell view, const Reach& reach);

  /// Forgets everything, as if no viewpoint had been.
  void clear();

  size_t count() const { return count_; }
  /// Chunks within the wanted distance that are left out, as there are more than kMost.
  size_t cut() const { return cut_; }
  bool wants(ChunkPos pos) const;
  /// The wanted chunks on the ground of a chunk that is not wanted itself: one coarser, or finer
  /// ones.
  std::vector<ChunkPos> heirs(ChunkPos pos) const;

 private:
  struct Span {
    int64_t first;
    int64_t last;
  };
  /// The chunks of each row (cz) from first to last.
  using Rows = std::map<int64_t, Span>;
  struct Leaves {
    std::vector<ChunkPos> inner;  // Sorted.
    std::vector<ChunkPos> outer;
  };

  template <class Row>
  void eachRow(Cell centre, int64_t reach, int level, Row&& row) const;
  Rows rowsWithin(int64_t reach) const;
  size_t countWithin(int64_t distance, const Reach& reach) const;
  /// Where the viewpoint is and, in quarters of the lead, will be.
  std::array<Cell, 5> way() const;
  Rows rowsAlongTheWay(int64_t reach, int level) const;
  Change moveRows(int64_t inner, int64_t outer);
  Change moveLeaves(int64_t inner, const Reach& reach);
  /// The leaves, and the squares that were cut up.
  std::pair<Leaves, std::set<ChunkPos>> leavesWithin(int64_t inner, const Reach& reach) const;
  /// fresh: squares that were cut up go there.
  void visit(ChunkPos pos, int64_t inner, const Reach& reach, std::set<ChunkPos>& fresh,
      Leaves& out) const;
  void heirsBelow(ChunkPos pos, std::vector<ChunkPos>& out) const;
  Rect groundOf(ChunkPos pos) const { return intersection(layout_.rectOf(pos), bounds_); }

  ChunkLayout layout_;
  Rect bounds_;
  size_t most_;
  Cell view_;
  Cell lead_;
  int levels_ = 1;
  Rows inner_, outer_;  // With one level.
  Leaves leaves_;       // With several.
  std::set<ChunkPos> parted_;
  size_t count_ = 0;
  size_t cut_ = 0;
};

/// The chunk of the next coarser level that holds this one.
constexpr ChunkPos parentOf(ChunkPos pos) {
  return {floorDiv(pos.cx, 2), floorDiv(pos.cz, 2), pos.detail + 1, floorDiv(pos.cy, 2)};
}

}  // namespace acre
