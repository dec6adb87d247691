/// Levels as plain values: one bounded floor of rock and open space, and the processes that make
/// it.
#pragma once

#include <cmath>
#include <cstdint>
#include <string>
#include <variant>
#include <vector>

#include "recipe/automaton_rule.h"
#include "recipe/field_recipe.h"

namespace acre {

/// Whether a byte of a room's text is a mark: a letter or digit, of ASCII whatever the locale.
constexpr bool isMark(char c) {
  return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
}

/// A number that may depend on the floor: `at` on floor 1, `perFloor` more on each below it.
struct Amount {
  double at = 0;
  double perFloor = 0;
  bool operator==(const Amount&) const = default;

  double on(int floor) const { return at + perFloor * (floor - 1); }
  /// Rounded to the nearest whole number.
  int wholeOn(int floor) const { return static_cast<int>(std::floor(on(floor) + 0.5)); }
};

/// Solid where a noise of two dimensions lies within its band.
struct NoiseWalls {
  bool refill = true;  ///< False: cells outside the band stay as they are, else they become open.
  NoiseBand band;
  bool operator==(const NoiseWalls&) const = default;
};

/// Cells filled by chance, then a cellular automaton.
struct FilledAutomaton {
  bool refill = true;  ///< False: the automaton goes on from what is there.
  Amount fill{0.45, 0};
  std::string rule = "B5678/S45678";
  Amount steps{5, 0};
  GridEdge edge = GridEdge::Filled;
  bool operator==(const FilledAutomaton&) const = default;
};

/// Random walks that dig.
struct DiggingWalks {
  Amount walkers{4, 0};
  Amount steps{400, 0};  ///< Of each.
  double turn = 0.3;     ///< Chance of a turn at each step.
  int radius = 0;
  double untilOpen = 1;  ///< Ends when so much of the floor is open.
  bool operator==(const DiggingWalks&) const = default;
};

/// A body that all open space lies in.
struct LevelBody {
  bool round = true;
  Amount floods{24, 0};
  Amount size{60, 0};
  double inward = 0.5;
  int smooth = 3;
  bool operator==(const LevelBody&) const = default;
};

/// Prepared rooms.
struct LevelRooms {
  struct Piece {
    std::string id;
    std::string text;  ///< Rows of '#', '.', ' ' and marks; empty: from the file.
    std::string file;  ///< Of such text, or a PNG: black solid, white open, clear as it is.
    double share = 1;  ///< How often it is drawn, in relation to the others.
    bool operator==(const Piece&) const = default;
  };
  std::vector<Piece> pieces;
  Amount count{6, 0};
  int distance = 3;  ///< Cells between rooms.
  bool turn = true;  ///< By quarter turns.
  bool operator==(const LevelRooms&) const = default;
};

/// What becomes of open spaces that do not connect.
struct LevelSpaces {
  int least = 12;    ///< Smaller ones are filled.
  bool join = true;  ///< The rest are connected by the shortest digging.
  bool operator==(const LevelSpaces&) const = default;
};

/// Brooks and paths, one cell wide, from side to side through obstacles.
struct LevelCourses {
  Amount count{1, 0};
  bool dig = true;       ///< Through what is solid; else it is an obstacle as well.
  double feature = 12;   ///< Width of the obstacles' features.
  Amount share{0.2, 0};  ///< Of the cells within the margin that are obstacles.
  double winding = 3;    ///< Times as long as straight that they may be; longer ones are given up.
  bool join = false;     ///< One ends where it meets an earlier one; else they cross.
  std::string material;  ///< Of their cells, as far as these stay open; empty: as open cells.
  bool operator==(const LevelCourses&) const = default;
};

struct LevelProcess {
  std::string id;
  std::string name;
  bool on = true;
  std::variant<NoiseWalls, FilledAutomaton, DiggingWalks, LevelBody, LevelRooms, LevelSpaces,
      LevelCourses>
      what;
  bool operator==(const LevelProcess&) const = default;
};

/// A place that every floor must have once.
struct LevelPlace {
  std::string id;
  std::string name;
  std::string material;  ///< Of its cell.
  std::string mark;  ///< One letter or digit of a room: it lies on such a mark; empty: anywhere.
  int clear = 0;     ///< Open cells about it, in a square of this radius.
  std::string from;  ///< Another place that stands before it; empty: the distance counts not.
  int least = 0;     ///< Steps on foot from there, at least.
  int most = 0;      ///< At most; 0: as many as there are.
  bool reachable = true;  ///< On foot from the first place.
  bool operator==(const LevelPlace&) const = default;
};

/// The stage Level of worlds of that kind, whose bounds are the floor's size.
struct Level {
  bool on = true;  ///< Off: the rock alone.
  int floor = 1;   ///< Which one the world is.
  int firstFloor = 1;
  int lastFloor = 1;
  int32_t margin = 3;  ///< Cells at every edge that stay solid.
  int32_t walls = 3;   ///< Height of what is solid, in cells; what is open lies at 0.
  std::string open;    ///< Material of open cells.
  std::vector<LevelProcess> processes;
  std::vector<LevelPlace> places;
  bool operator==(const Level&) const = default;
};

}  // namespace acre
