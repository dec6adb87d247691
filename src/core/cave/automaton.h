/// Cellular automata on cells of one bit: rules in B/S notation, 64 cells a step at a time.
#pragma once

#include <cstdint>
#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"

namespace acre {

/// Which numbers of solid neighbours make an open cell solid (birth) and keep a solid one solid
/// (survival): bit n of each for n neighbours. Cells of a plane have eight neighbours, those of a
/// volume 26; a cell is no neighbour of its own.
struct AutomatonRule {
  static constexpr int kPlane = 8;
  static constexpr int kVolume = 26;
  uint32_t birth = 0;
  uint32_t survival = 0;
  bool operator==(const AutomatonRule&) const = default;

  bool applies(bool solid, int count) const {
    return ((solid ? survival : birth) >> count & 1) != 0;
  }
};

/// A rule from its text: "B" and "S" with the counts of each behind it, joined by "/". In a plane
/// every digit is a count, as in "B678/S345678". In a volume counts and ranges stand in a row,
/// "B14-26/S13-26", "B5,7-9/S>12"; ">12" means all above it. neighbours: kPlane or kVolume. where:
/// named in errors.
Result<AutomatonRule> readRule(const std::string& text, int neighbours, const std::string& where);
/// The shortest text that reads back as the rule.
std::string ruleText(const AutomatonRule& rule, int neighbours);

/// What lies beyond the edges of a bounded grid.
enum class GridEdge {
  Filled,  ///< Solid cells.
  Empty,   ///< Open cells.
  Left     ///< Nothing acts there: cells at the edge stay as they are.
};

/// Cells of a box, one bit each, x fastest, then z, then y; a plane has one level.
class BitGrid {
 public:
  /// All open. width, depth, levels: 1 and up.
  BitGrid(int32_t width, int32_t depth, int32_t levels = 1);

  int32_t width() const { return width_; }
  int32_t depth() const { return depth_; }
  int32_t levels() const { return levels_; }
  bool at(int32_t x, int32_t z, int32_t y = 0) const {
    return (row(z, y)[x / 64] >> (x % 64) & 1) != 0;
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
    return words_.data() + ((y + 1) * (depth_ + ptrdiff_t{2}) + z + 1) * stride_ + 1;
  }
  uint64_t* row(int32_t z, int32_t y) {
    return words_.data() + ((y + 1) * (depth_ + ptrdiff_t{2}) + z + 1) * stride_ + 1;
  }
  ptrdiff_t words() const { return stride_ - 2; }
  uint64_t lastMask() const {  // The cells of a row's last word.
    return width_ % 64 ? (uint64_t{1} << (width_ % 64)) - 1 : ~uint64_t{0};
  }

  int32_t width_, depth_, levels_;
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
