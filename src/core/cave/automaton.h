/// Cellular automata on cells of one bit: rules in B/S notation, 64 cells a step at a time.
#pragma once

#include <cstdint>
#include <stop_token>
#include <string>
#include <vector>

#include "recipe/automaton_rule.h"

namespace acre {

/// Cells of a box, one bit each, x fastest, then z, then y; a plane has one level.
class BitGrid {
 public:
  /// All open. width, length, levels: 1 and up.
  BitGrid(int32_t width, int32_t length, int32_t levels = 1);

  int32_t width() const { return width_; }
  int32_t length() const { return length_; }
  int32_t levels() const { return levels_; }
  bool at(int32_t x, int32_t z, int32_t y = 0) const {
    return (row(z, y)[x / 64] >> (x % 64) & 1) != 0;
  }
  /// Cells x ... x + 63 of a row, the first in bit 0; what lies beyond the row comes as anything.
  uint64_t bits(int32_t x, int32_t z, int32_t y = 0) const {
    const uint64_t* words = row(z, y) + x / 64;
    return x % 64 == 0 ? words[0] : words[0] >> (x % 64) | words[1] << (64 - x % 64);
  }
  /// Sets cells 64 * word ... 64 * word + 63 of a row at once, as far as they exist.
  void setWord(int32_t word, int32_t z, int32_t y, uint64_t cells) {
    row(z, y)[word] = word + 1 == words() ? cells & lastMask() : cells;
  }
  void set(int32_t x, int32_t z, int32_t y, bool solid);
  void set(int32_t x, int32_t z, bool solid) { set(x, z, 0, solid); }
  uint64_t count() const;  ///< Solid cells.
  uint64_t bytes() const { return sizeof(BitGrid) + words_.size() * sizeof(uint64_t); }
  bool operator==(const BitGrid& other) const;

 private:
  friend class Automaton;
  // Rows have a word more at either end, and the box a row and a level more on every side: what
  // lies beyond the edges.
  const uint64_t* row(int32_t z, int32_t y) const {
    return words_.data() + ((y + 1) * (length_ + ptrdiff_t{2}) + z + 1) * stride_ + 1;
  }
  uint64_t* row(int32_t z, int32_t y) {
    return words_.data() + ((y + 1) * (length_ + ptrdiff_t{2}) + z + 1) * stride_ + 1;
  }
  ptrdiff_t words() const { return stride_ - 2; }
  uint64_t lastMask() const {  // The cells of a row's last word.
    return width_ % 64 ? (uint64_t{1} << (width_ % 64)) - 1 : ~uint64_t{0};
  }

  int32_t width_, length_, levels_;
  ptrdiff_t stride_;
  std::vector<uint64_t> words_;
};

/// Steps a grid by a rule: all cells of a step are found from those before it. A grid of one level
/// is a plane of eight neighbours, any other a volume of 26.
///
/// Counts of neighbours are added up in slices: bit k of the counts of 64 cells in one word.
class Automaton {
 public:
  Automaton(const AutomatonRule& rule, GridEdge edge, int32_t levels);

  /// `steps` times; false when stopped, the grid then is as after some of the steps.
  bool run(BitGrid& grid, int steps, const std::stop_token& stop = {});

 private:
  void step(BitGrid& from, BitGrid& to) const;
  void stepRow(const BitGrid& from, BitGrid& to, int32_t z, int32_t y) const;
  /// Puts what lies beyond the edges around the grid.
  void frame(BitGrid& grid) const;

  AutomatonRule rule_;
  GridEdge edge_;
  bool volume_;
  // By count: all bits set where the rule applies.
  uint64_t birth_[32], survival_[32];
};

}  // namespace acre
