/// Places of one kind scattered over an endless plane, so many in an area and never nearer than a
/// distance, whatever part of it is asked for.
///
/// docs/maths.md, "Objects", states all of it: of all candidates that exist, rounds of local
/// priority take those that no better one stands near. Three rounds reach five distances far, which
/// is what a place may depend on; more would fill hardly more.
#pragma once

#include <cstdint>
#include <vector>

#include "base/coords.h"

namespace acre {

/// A place that may be taken. The lower its chance, then z, then x, the better it is.
struct Candidate {
  Cell cell;
  uint64_t hash = 0;  ///< All that is drawn of it.
  /// It exists where this is less than the chance there, in 1/2^32.
  uint32_t chance() const { return static_cast<uint32_t>(hash >> 32); }
  bool betterThan(const Candidate& other) const {
    if (chance() != other.chance()) return chance() < other.chance();
    return cell.z != other.cell.z ? cell.z < other.cell.z : cell.x < other.cell.x;
  }
};

class Scatter {
 public:
  static constexpr int kRounds = 3;

  /// distance: in cells, 1 to 64; two places lie no nearer.
  Scatter(uint64_t key, int32_t distance);

  int32_t distance() const { return distance_; }
  /// Cells a side of the squares that hold a candidate each.
  int64_t square() const { return square_; }
  /// How far a place depends on others.
  int64_t reach() const { return int64_t{2 * kRounds - 1} * distance_; }
  /// What is drawn of square (i, j).
  uint64_t hashAt(int64_t i, int64_t j) const;
  /// Adds those of some squares whose chance is below one, row by row.
  void candidates(int64_t i, int64_t j, int64_t wide, int64_t length, uint64_t below,
      std::vector<Candidate>& out) const;

  /// What chance makes about so many places of 1,000 cells, in 1/2^32; no less for more. density: 0
  /// to 1,000; more than most() changes nothing.
  uint64_t chanceFor(double density) const;
  /// How many of 1,000 cells fit.
  double most() const;

  /// Which of some candidates that exist are taken: 1 for each. Right for those that all better
  /// ones within reach() are among.
  std::vector<uint8_t> taken(const std::vector<Candidate>& existing) const;

 private:
  /// Candidates to a square of the distance, for so many places of it that are asked.
  double candidatesFor(double places) const;
  double most(double candidates) const;
  Candidate placed(int64_t i, int64_t j, uint64_t hash) const;

  uint64_t key_;
  int32_t distance_;
  int64_t square_;
  double area_ = 1;  // Cells that one place keeps others off, over pi.
};

}  // namespace acre
