/// Processes that make the floor of a level: each works on a plane of solid and open cells, draws
/// by hashes of its key, and tells of every step.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"
#include "cave/automaton.h"
#include "water/way_search.h"

namespace acre {

/// Told after every step of a process. Not called: nobody wants to know.
using StepListener = std::function<void(const BitGrid& plane)>;

/// Makes each cell solid with a chance, by a draw of its own. Cells within `margin` of the edge are
/// solid. fill: 0 ... 1.
void fillByChance(BitGrid& plane, double fill, int32_t margin, uint64_t key);

/// Walkers that dig where they go, one cell a step, all in turn; each starts at the plane's middle
/// or, when something is open, at an open cell that is drawn. A step goes on ahead, or turns left
/// or right with the chance `turn`; where the margin is in the way it turns until there is a way.
struct RandomWalks {
  int walkers = 4;       ///< 1 ... 1,000.
  int steps = 400;       ///< Of each, 1 ... 1,000,000.
  double turn = 0.3;     ///< 0 ... 1.
  int radius = 0;        ///< Cells dug about the walker, 0 ... 16, in a disc.
  double untilOpen = 1;  ///< Ends when so much of the plane is open.
};
/// every: steps of all walkers between two calls of the listener. False when stopped.
bool walkRandomly(BitGrid& plane, const RandomWalks& walks, int32_t margin, uint64_t key, int every,
    const StepListener& listener, const std::stop_token& stop = {});

/// A body: what lies outside it is solid. It starts as a disc or a rectangle as large as the margin
/// lets it be; its edge is pushed in and out by floods, each from an edge cell that is drawn, over
/// about `size` cells; then its edge is smoothed: a cell at the edge joins the side that most of
/// its eight neighbours are of, all from those before, and a tie leaves it.
struct BodyOutline {
  bool round = true;
  int floods = 24;      ///< 0 ... 10,000.
  int size = 60;        ///< Cells of a flood, 1 ... 100,000.
  double inward = 0.5;  ///< Share of the floods that push inward.
  int smooth = 3;       ///< Passes, 0 ... 64.
};
/// Cells that the body's part of the work looked at, against all cells of all its steps.
struct Visited {
  uint64_t cells = 0;
  uint64_t all = 0;
};
/// The body alone, solid outside. Keeps `margin` solid cells at every edge of the plane.
/// reversed: edge cells are smoothed in the reversed order, which must not matter. Nothing when
/// stopped.
std::optional<BitGrid> bodyOf(int32_t width, int32_t length, const BodyOutline& outline,
    int32_t margin, uint64_t key, const StepListener& listener, Visited& visited,
    bool reversed = false, const std::stop_token& stop = {});

/// Makes solid what is solid in the body.
void cutToBody(BitGrid& plane, const BitGrid& body);

/// A room that somebody prepared: rows of equal length, '#' solid, '.' open, ' ' whatever is there,
/// letters and digits open places with that mark.
struct RoomPiece {
  int32_t width = 0, length = 0;
  std::vector<char> cells;  ///< Row by row.
  char at(int32_t x, int32_t z) const {
    return cells[static_cast<size_t>(z) * static_cast<size_t>(width) + static_cast<size_t>(x)];
  }
  /// A quarter turn to the right, so many times.
  RoomPiece turned(int quarters) const;
};
/// where: named in errors.
Result<RoomPiece> readRoom(const std::string& text, const std::string& where);

/// Where a room was put.
struct PlacedRoom {
  size_t process = 0;  ///< Which put it; placeRooms() leaves it 0.
  size_t piece = 0;
  int32_t x = 0, z = 0;  ///< Its upper left cell.
  int quarters = 0;
  bool operator==(const PlacedRoom&) const = default;
};
/// Puts up to `count` rooms onto the plane, each one piece that is drawn by its share (none: all
/// alike) at a place that is drawn,
/// at least `distance` cells from every other and from the margin; up to `tries` draws a room.
std::vector<PlacedRoom> placeRooms(BitGrid& plane, const std::vector<RoomPiece>& pieces,
    const std::vector<double>& shares, int count, int32_t distance, bool turn, int tries,
    int32_t margin, uint64_t key, const StepListener& listener);

/// A course over a plane, or why there is none.
struct LaidCourse {
  size_t process = 0;  ///< Which laid it; layCourses() leaves it 0.
  int number = 0;      ///< In its process, from 0.
  CourseFault fault = CourseFault::None;
  std::vector<uint32_t> cells;  ///< Places in the plane, row by row, each beside the one before.
};
struct CoursePlan {
  int count = 1;       ///< 0 ... 16.
  bool dig = true;     ///< Through what is solid; else that is closed as well.
  double share = 0.2;  ///< Of the cells within the margin that are closed.
  double winding = 3;  ///< Times as long as straight that they may be.
  bool join = false;   ///< One ends at an earlier one.
};
/// Lays courses from side to side within the margin: one cell wide, through the sides of cells,
/// through no closed one. values: of the cells within the margin, row by row; the greatest are
/// closed. Those with a fault dig nothing. Nothing when stopped.
std::optional<std::vector<LaidCourse>> layCourses(BitGrid& plane, const CoursePlan& how,
    const std::vector<float>& values, int32_t margin, uint64_t key, const StepListener& listener,
    const std::stop_token& stop);

}  // namespace acre
