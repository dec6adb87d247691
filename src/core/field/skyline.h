/// A skyline as a bounded walk along x: height, slope and change of slope, drawn per column.
#pragma once

#include <cstdint>
#include <memory>
#include <vector>

#include "base/memo.h"
#include "noise/noise.h"
#include "recipe/field_recipe.h"

namespace acre {

/// Immutable to its users and thread-safe. Integers of 1/65536 cell throughout.
///
/// One step of the walk, from column n to n + 1: the slope changes by a draw hashed from n, at most
/// `change` either way, and stays within `slope`; the height follows it. With limits, wherever a
/// limit is nearer than slope^2 / change and the slope leads toward it, the draw is turned away
/// from it; on the limit itself the slope becomes 0.
///
/// So that any column can be had without all before it, the walk is anchored: columns come in
/// segments of segment() columns, and anchor k is where a walk ends that began level in the middle
/// at the segment before. In segment k the walk F starts from anchor k and the walk N level in the
/// middle, both with the same draws; the skyline is F in the first half and passes over to N in the
/// second, and N ends on anchor k + 1.
class Skyline {
 public:
  Skyline(const WalkSource& source, uint64_t seed, MemoLimit memo = {});

  /// Heights of columns: the cells along x, fractions dropped.
  void points(const Points& places, float* out) const;
  int64_t segment() const { return length_; }

 private:
  struct State {
    int64_t height;
    int64_t slope;
  };
  struct Heights {
    std::vector<float> of;
    uint64_t bytes() const { return sizeof(Heights) + of.size() * sizeof(float); }
  };
  /// One column's height, of a segment that nobody else asks for.
  struct Column {
    float height;
    uint64_t bytes() const { return 128; }  // With its place in the memo.
  };
  State step(State at, int64_t column) const;
  State anchor(int64_t k) const;
  float mixed(int64_t i, State f, State n) const;
  float alone(int64_t column) const;
  std::shared_ptr<const Heights> segmentAt(int64_t k) const;
  Heights make(int64_t k) const;

  int64_t low_, high_, slope_, change_, zone_, length_;
  bool limits_;
  uint64_t seed_;
  Memo<int64_t, Heights> segments_;
  Memo<int64_t, Column> columns_;
};

}  // namespace acre
