/// Floors of a level: made whole, by a chain of processes, with the places that must be there.
#pragma once

#include <functional>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "base/result.h"
#include "cave/level_steps.h"
#include "cave/room_files.h"
#include "noise/kernels.h"
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
  std::vector<FoundPlace> places;   ///< In the order of the recipe.
  std::vector<LaidCourse> courses;  ///< By process and number; those with a fault as well.
  Visited visited;                  ///< By bodies: cells looked at.
  uint64_t dug = 0;                 ///< Cells dug to connect open spaces.

  explicit LevelFloor(BitGrid cells) : plane(std::move(cells)) {}
  uint64_t bytes() const;
};

/// "Brooks 2": process and number, counted from 1.
std::string courseName(const Level& level, const LaidCourse& course);

/// A level, compiled. Every draw is hashed from the seed, the floor and the process's id, so that a
/// floor is the same whoever asks, and a process more moves no draw of the others. Immutable and
/// thread-safe.
class LevelMaker {
 public:
  /// width, depth: of a floor, within limits::levelSide. pieces: texts of rooms, by process and
  /// piece, as readPieces() finds them. seed: of the world.
  static Result<std::shared_ptr<const LevelMaker>> compile(const Level& level, int32_t width,
      int32_t length, const RoomTexts& pieces, uint64_t seed, const Kernels& kernels);

  /// Told after every step: which process, and the plane.
  using Watch = std::function<void(size_t process, const BitGrid& plane)>;

  /// One floor. What the processes leave is checked against the places; when one cannot be put, or
  /// open spaces cannot be connected, the error says which, on which floor, and what was asked:
  /// nothing is half made.
  Result<std::shared_ptr<const LevelFloor>> make(
      int floor, const Watch& watch = {}, const std::stop_token& stop = {}) const;

  /// Whether a process comes out the same when its cells are gone through from the last to the
  /// first; with a reason when it does not go cell by cell. spoil: called with what each step made
  /// before it is compared, so that a test can see that a difference is found.
  struct Reversed {
    std::string instead;  ///< Why the question has no meaning here; empty: it was answered.
    bool equal = true;
    size_t steps = 0;      ///< That were compared.
    size_t differing = 0;  ///< Cells, in the first step that differs.
  };
  using Spoil = std::function<void(BitGrid&)>;
  Result<Reversed> reversed(
      size_t process, int floor, const std::stop_token& stop = {}, const Spoil& spoil = {}) const;

  const Level& level() const { return level_; }

  /// Of the noise of a process' walls. seed: of the world.
  static uint64_t wallKey(uint64_t seed, const std::string& process);
  /// Where a floor looks at that noise: so much is added to x, counted from the plane's corner.
  static int64_t wallShift(int floor) { return int64_t{floor} * 65'536; }

 private:
  Status run(size_t process, int floor, LevelFloor& out, const Watch& watch,
      const std::stop_token& stop) const;
  Status courses(
      size_t process, LevelFloor& out, const StepListener& tell, const std::stop_token& stop) const;
  Status place(LevelFloor& out, const std::stop_token& stop) const;
  std::vector<float> noiseRow(size_t process, int floor, int32_t z) const;
  uint64_t keyOf(const std::string& id, int floor) const;

  Level level_;
  int32_t width_ = 0, length_ = 0;
  uint64_t seed_ = 0;
  const Kernels* kernels_ = nullptr;
  std::vector<NoisePlan> plans_;  ///< Of noise walls, and of courses' obstacles, by process.
  std::vector<std::vector<RoomPiece>> pieces_;  ///< Of rooms, by process.
};

/// Steps on foot from a cell to every other through the sides of open cells; -1 where none lead.
std::vector<int32_t> stepsFrom(const BitGrid& plane, int32_t x, int32_t z);

}  // namespace acre
