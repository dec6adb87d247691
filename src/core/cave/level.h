/// Floors of a level: made whole, by a chain of processes, with the places that must be there.
#pragma once

#include <functional>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"
#include "cave/level_steps.h"
#include "noise/noise.h"
#include "recipe/level_recipe.h"

namespace acre {

/// A place of the recipe on a floor.
struct FoundPlace {
  size_t place = 0;  ///< Index in Level::places.
  int32_t x = 0, z = 0;
  int steps = 0;  ///< On foot from the place that the recipe names; 0 without one.
};

/// One floor. Immutable once made.
struct LevelFloor {
  int floor = 1;
  BitGrid plane;
  std::vector<PlacedRoom> rooms;
  std::vector<FoundPlace> places;  ///< In the order of the recipe.
  Visited visited;                 ///< By bodies: cells looked at.
  uint64_t dug = 0;                ///< Cells dug to connect open spaces.

  explicit LevelFloor(BitGrid cells) : plane(std::move(cells)) {}
  uint64_t bytes() const {
    return sizeof(LevelFloor) + plane.bytes() + rooms.size() * sizeof(PlacedRoom) +
           places.size() * sizeof(FoundPlace);
  }
};

/// A level, compiled. Every draw is hashed from the seed, the floor and the process's id, so that a
/// floor is the same whoever asks, and a process more moves no draw of the others. Immutable and
/// thread-safe.
class LevelMaker {
 public:
  /// pieces: texts of rooms, by process and piece, read from files where the recipe names one.
  /// where: JSON pointer of the level, for errors.
  static Result<std::shared_ptr<const LevelMaker>> compile(
      const Level& level, const std::vector<std::vector<std::string>>& pieces, uint64_t seed,
      const std::string& where);

  /// Told after every step: which process, and the plane.
  using Watch = std::function<void(size_t process, const BitGrid& plane)>;

  /// One floor. What the processes leave is checked against the places; when one cannot be put, or
  /// open spaces cannot be connected, the error says which, on which floor, and what was asked:
  /// nothing is half made.
  Result<std::shared_ptr<const LevelFloor>> make(int floor, const Watch& watch = {},
                                                 const std::stop_token& stop = {}) const;

  const Level& level() const { return level_; }

 private:
  Status run(size_t process, int floor, LevelFloor& out, const Watch& watch,
             const std::stop_token& stop) const;
  Status place(LevelFloor& out) const;
  uint64_t keyOf(const std::string& id, int floor) const;

  Level level_;
  uint64_t seed_ = 0;
  std::string where_;
  std::vector<NoisePlan> plans_;                ///< Of noise walls, by process.
  std::vector<std::vector<RoomPiece>> pieces_;  ///< Of rooms, by process.
};

/// Steps on foot from a cell to every other through the sides of open cells; -1 where none lead.
std::vector<int32_t> stepsFrom(const BitGrid& plane, int32_t x, int32_t z);

}  // namespace acre
