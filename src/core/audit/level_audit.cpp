#include "audit/level_audit.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <mutex>

#include "base/parallel.h"
#include "cave/level_stage.h"
#include "cave/open_spaces.h"
#include "recipe/edits.h"
#include "world/world.h"

namespace acre {
namespace {

constexpr double kMostOpen = 0.9;

/// Solid cells that one must pass from a cell to the edge.
int32_t fromEdge(const BitGrid& plane, int32_t x, int32_t z) {
  return std::min({x, z, plane.width() - 1 - x, plane.length() - 1 - z});
}

/// The open cell nearest to the edge.
std::optional<Cell> nearestEdge(const BitGrid& plane) {
  std::optional<Cell> out;
  int32_t least = INT32_MAX;
  for (int32_t z = 0; z < plane.length(); ++z)
    for (int32_t x = 0; x < plane.width(); ++x)
      if (!plane.at(x, z) && fromEdge(plane, x, z) < least) {
        least = fromEdge(plane, x, z);
        out = Cell{x, z};
      }
  return out;
}

/// What became of the courses of a process.
struct CourseTally {
  size_t asked = 0, failed = 0;
  std::string reasons;      ///< "2 no path, 1 start blocked".
  std::optional<Cell> cut;  ///< A cell of one that is solid.
};

CourseTally tallyOf(const LevelFloor& floor, size_t process) {
  CourseTally out;
  std::array<size_t, kCourseFaults> faults{};
  for (const LaidCourse& course : floor.courses) {
    if (course.process != process) continue;
    ++out.asked;
    ++faults[static_cast<size_t>(course.fault)];
    for (const uint32_t cell : course.cells) {
      const auto wide = static_cast<uint32_t>(floor.plane.width());
      const auto x = static_cast<int32_t>(cell % wide), z = static_cast<int32_t>(cell / wide);
      if (!out.cut && floor.plane.at(x, z)) out.cut = Cell{x, z};
    }
  }
  for (size_t n = 1; n < kCourseFaults; ++n) {
    if (faults[n] == 0) continue;
    out.failed += faults[n];
    out.reasons += fmt::format("{}{} {}", out.reasons.empty() ? "" : ", ", faults[n],
        faultName(static_cast<CourseFault>(n)));
  }
  return out;
}

}  // namespace

LevelFigures figuresOf(const LevelFloor& floor, const BitGrid& plane) {
  LevelFigures out;
  out.floor = floor.floor;
  out.width = plane.width();
  out.length = plane.length();
  const auto cells = static_cast<double>(plane.width()) * static_cast<double>(plane.length());
  out.open = 1 - static_cast<double>(plane.count()) / cells;
  const OpenSpaces spaces = OpenSpaces::of(plane);
  out.pieces = static_cast<uint32_t>(spaces.spaces.size());
  if (!spaces.spaces.empty()) out.largest = spaces.spaces[0].cells;
  out.outline = outlineOf(plane);
  out.margin = marginOf(plane);
  out.dug = floor.dug;
  out.rooms = floor.rooms.size();
  out.visited = floor.visited;
  return out;
}

BitGrid planeOf(const World& world) {
  BitGrid out = world.level()->floor().plane;
  if (!world.edits()) return out;
  const Rect& bounds = world.bounds();
  world.edits()->eachIn(
      {bounds.x, editLevel(world.recipe()), bounds.z, 1, static_cast<int32_t>(bounds.width), 1,
          static_cast<int32_t>(bounds.length)},
      [&](int64_t x, int64_t, int64_t z, uint16_t) {
        out.set(static_cast<int32_t>(x - bounds.x), static_cast<int32_t>(z - bounds.z),
            !world.columns().isOpen({x, z}));
      });
  return out;
}

std::vector<std::string> faultsOf(
    const Level& level, const LevelFloor& floor, const BitGrid& plane) {
  std::vector<std::string> out;
  if (const int32_t margin = marginOf(plane); margin < level.margin)
    out.push_back(fmt::format("the margin is {} cells, {} are asked for", margin, level.margin));
  const OpenSpaces spaces = OpenSpaces::of(plane);
  const auto labelOf = [&](const FoundPlace& p) {
    return spaces.labels[static_cast<size_t>(p.z) * static_cast<size_t>(plane.width()) +
                         static_cast<size_t>(p.x)];
  };
  const FoundPlace* first = nullptr;
  for (size_t k = 0; k < level.places.size(); ++k) {
    const LevelPlace& wanted = level.places[k];
    const FoundPlace* own = nullptr;
    size_t times = 0;
    for (const FoundPlace& found : floor.places)
      if (found.place == k) ++times, own = &found;
    if (times != 1) {
      out.push_back(fmt::format("\"{}\" is there {} times", wanted.id, times));
      continue;
    }
    if (!first) first = own;
    if (plane.at(own->x, own->z)) {
      out.push_back(fmt::format("\"{}\" lies in solid rock", wanted.id));
      continue;
    }
    for (const FoundPlace& other : floor.places)
      if (&other != own && other.x == own->x && other.z == own->z)
        out.push_back(fmt::format(
            "\"{}\" shares its cell with \"{}\"", wanted.id, level.places[other.place].id));
    for (int32_t z = own->z - wanted.clear; z <= own->z + wanted.clear; ++z)
      for (int32_t x = own->x - wanted.clear; x <= own->x + wanted.clear; ++x)
        if (x < 0 || z < 0 || x >= plane.width() || z >= plane.length() || plane.at(x, z)) {
          out.push_back(fmt::format("\"{}\" is not clear at {},{}", wanted.id, x, z));
          z = plane.length() + wanted.clear;
          break;
        }
    if (wanted.reachable && labelOf(*own) != labelOf(*first))
      out.push_back(fmt::format(
          "\"{}\" cannot be reached from \"{}\"", wanted.id, level.places[first->place].id));
    const auto from = std::find_if(floor.places.begin(), floor.places.end(), [&](const auto& p) {
      return !wanted.from.empty() && level.places[p.place].id == wanted.from;
    });
    if (from == floor.places.end()) continue;
    const int32_t steps = stepsFrom(
        plane, from->x, from->z)[static_cast<size_t>(own->z) * static_cast<size_t>(plane.width()) +
                                 static_cast<size_t>(own->x)];
    if (steps < wanted.least || (wanted.most > 0 && steps > wanted.most))
      out.push_back(fmt::format("\"{}\" lies {} steps from \"{}\"", wanted.id, steps, wanted.from));
  }
  return out;
}

Result<FloorTrials> tryFloors(const Recipe& recipe, int floor, int64_t first, int count,
    unsigned threads, const Kernels& kernels, const std::stop_token& stop,
    const std::function<void(double)>& progress) {
  if (const auto sound = Engine::levelMaker(recipe, kernels); !sound) return sound.error();
  FloorTrials out;
  out.list.resize(static_cast<size_t>(count));
  std::mutex telling;
  int done = 0;
  parallelFor(threads, count, [&](int n) {
    if (stop.stop_requested()) return;
    FloorTrial& trial = out.list[static_cast<size_t>(n)];
    Recipe one = recipe;
    one.seed = trial.seed = std::to_string(first + n);
    const auto maker = Engine::levelMaker(one, kernels);
    const auto made = maker ? (*maker)->make(floor, {}, stop)
                            : Result<std::shared_ptr<const LevelFloor>>(maker.error());
    if (!made) {
      trial.fault = made.error().text();
    } else {
      trial.figures = figuresOf(**made, (*made)->plane);
      for (const std::string& fault : faultsOf(*one.level, **made, (*made)->plane))
        trial.fault += (trial.fault.empty() ? "" : "; ") + fault;
    }
    const std::lock_guard lock(telling);
    ++done;
    if (progress) progress(static_cast<double>(done) / count);
  });
  if (stop.stop_requested()) return cancelled();
  out.failing = static_cast<size_t>(std::count_if(
      out.list.begin(), out.list.end(), [](const FloorTrial& t) { return !t.fault.empty(); }));
  return out;
}

// ---- checks ------------------------------------------------------------------------------------

bool checkLevel(const World& world, const std::stop_token& stop, std::vector<Check>& out) {
  const LevelStage* stage = world.level();
  if (!stage) return true;
  const Recipe& recipe = world.recipe();
  const Level& level = *recipe.level;
  const Rect& bounds = world.bounds();
  const auto add = [&](const char* id, std::string sentence, std::string pointer,
                       std::string subject, std::string mend, std::function<void(Recipe&)> apply,
                       std::optional<Cell> place) {
    if (place) place = Cell{bounds.x + place->x, bounds.z + place->z};
    out.push_back({id, std::move(sentence), StageId::Level, std::move(pointer), std::move(subject),
        std::move(mend), std::move(apply), place});
  };
  // A process that leaves every cell as it was.
  const auto maker = Engine::levelMaker(recipe, world.kernels());
  if (!maker) return true;  // A file of a room is gone since.
  std::vector<char> changes(level.processes.size());
  BitGrid before = solidPlane(stage->floor().plane.width(), stage->floor().plane.length());
  BitGrid after = before;
  size_t running = 0;
  const auto close = [&](size_t next) {
    if (next == running) return;
    changes[running] = !(after == before);
    before = after;
    running = next;
  };
  const auto made = (*maker)->make(
      level.floor,
      [&](size_t process, const BitGrid& plane) {
        close(process);
        after = plane;
      },
      stop);
  if (!made) return !stop.stop_requested();
  close(level.processes.size());
  for (size_t k = 0; k < level.processes.size(); ++k) {
    const LevelProcess& process = level.processes[k];
    const bool mended = std::holds_alternative<LevelSpaces>(process.what) ||
                        std::holds_alternative<LevelCourses>(process.what);  // May dig nothing.
    if (process.on && !changes[k] && !mended)
      add("idle-process",
          fmt::format("\"{}\" changes no cell of floor {}", process.name, level.floor),
          fmt::format("/level/processes/{}", k), process.id, "switch it off",
          [id = level.processes[k].id](Recipe& r) {
            for (LevelProcess& one : r.level->processes)
              if (one.id == id) one.on = false;
          },
          {});
  }
  if (stop.stop_requested()) return false;
  for (size_t k = 0; k < level.processes.size(); ++k) {
    const CourseTally tally = tallyOf(stage->floor(), k);
    const std::string& id = level.processes[k].id;
    if (tally.failed > 0)
      add("courses-fail",
          fmt::format("{} of {} courses of \"{}\" fail on floor {}: {}", tally.failed, tally.asked,
              level.processes[k].name, level.floor, tally.reasons),
          fmt::format("/level/processes/{}/share", k), id, "halve the obstacles",
          [id](Recipe& r) {
            for (LevelProcess& one : r.level->processes)
              if (auto* courses = std::get_if<LevelCourses>(&one.what); courses && one.id == id)
                courses->share = {courses->share.at / 2, courses->share.perFloor / 2};
          },
          {});
    if (tally.cut)
      add("cut-course",
          fmt::format("a later process fills cells of a course of \"{}\"", level.processes[k].name),
          fmt::format("/level/processes/{}", k), id, {}, {}, tally.cut);
  }

  const BitGrid plane = planeOf(world);
  const LevelFigures figures = figuresOf(stage->floor(), plane);
  if (figures.margin < level.margin)
    add("thin-margin",
        fmt::format("open cells come as near as {} to the edge, {} are to stay solid",
            figures.margin, level.margin),
        "/level/margin", "level", {}, {}, nearestEdge(plane));
  for (const std::string& fault : faultsOf(level, stage->floor(), plane))
    if (fault.front() == '"')
      add("broken-place", fault + " since cells were changed by hand", "/edits", "level", {}, {},
          {});
  const double inner = static_cast<double>(plane.width() - 2 * level.margin) *
                       static_cast<double>(plane.length() - 2 * level.margin);
  const double all = static_cast<double>(plane.width()) * static_cast<double>(plane.length());
  if (figures.open * all > kMostOpen * inner)
    add("all-open",
        fmt::format("{:.0f} % of floor {} within its margin is open: there is hardly a wall",
            figures.open * all / inner * 100, level.floor),
        "/level/processes", "level", {}, {}, {});
  return true;
}

}  // namespace acre
