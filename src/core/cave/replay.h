/// How a plane became what it is, step by step.
#pragma once

#include <cstdint>
#include <vector>

#include "cave/automaton.h"

namespace acre {

/// Every step of a process, kept as what changed: 64 cells a word. Going forward and back costs
/// what changed between.
class Replay {
 public:
  /// What a plane is like after a step.
  struct Figures {
    double open = 0;       ///< Share of the cells that are open.
    uint32_t pieces = 0;   ///< Connected open spaces.
    uint64_t outline = 0;  ///< Sides between open and solid cells.
  };

  /// A plane before the first step.
  explicit Replay(const BitGrid& first);
  /// Takes in the plane after one more step. REQUIRES: of the same size.
  void record(const BitGrid& next);

  size_t steps() const { return changes_.size(); }
  const Figures& figures(size_t step) const { return figures_[step]; }
  /// The plane after so many steps, 0 ... steps().
  const BitGrid& at(size_t step);
  size_t position() const { return position_; }
  /// Solid cells among the eight neighbours of one; beyond the edge none counts.
  int neighbours(int32_t x, int32_t z) const;
  uint64_t bytes() const;

 private:
  struct Change {
    uint32_t place;  // Of the word: z * words + word.
    uint64_t bits;   // That turned over.
  };
  void apply(const std::vector<Change>& changes);
  static Figures measure(const BitGrid& plane);

  int32_t words_;
  BitGrid now_;
  BitGrid last_;  // After the last step.
  size_t position_ = 0;
  std::vector<std::vector<Change>> changes_;
  std::vector<Figures> figures_;
};

}  // namespace acre
