#include "audit/object_landmarks.h"

#include <fmt/format.h>

#include <algorithm>

#include "audit/object_figures.h"
#include "audit/world_start.h"
#include "recipe/object_recipe.h"
#include "world/world.h"

namespace acre {
namespace {

class Search {
 public:
  Search(const World& world, Cell from, int64_t within, const std::stop_token& stop)
      : world_(world), from_(from), within_(within), stop_(stop) {}

  /// False when stopped.
  bool all() {
    const auto start = worldStart(world_, stop_);
    if (!start) return false;
    if (start->has_value()) {
      const WorldStart& at = **start;
      ObjectLandmark& one = out.emplace_back();
      one.start = true;
      one.name = "Start";
      one.cell = at.cell;
      one.distance = cellsApart(at.cell, from_);
      one.state = world_.level() ? "the first place of the floor"
                                 : fmt::format("dry, {} cells to walk about", at.walk);
    }
    if (!world_.objects().any()) return true;
    const auto& kinds = world_.recipe().objects->kinds;
    for (size_t k = 0; k < kinds.size(); ++k) {
      if (!kinds[k].on) continue;
      const size_t first = out.size();
      if (!(kinds[k].must ? squares(k) : nearest(k))) return false;
      std::stable_sort(out.begin() + static_cast<ptrdiff_t>(first), out.end(),
          [](const ObjectLandmark& a, const ObjectLandmark& b) { return a.distance < b.distance; });
    }
    return true;
  }
  std::vector<ObjectLandmark> out;

 private:
  Rect about(int64_t cells) const {
    return intersection(
        {from_.x - cells, from_.z - cells, 2 * cells + 1, 2 * cells + 1}, world_.bounds());
  }
  void add(size_t kind, std::optional<PlacedObject> object, Cell cell, int64_t square,
      std::string state) {
    const std::string name =
        object ? titleOf(world_.recipe(), *object) : world_.recipe().objects->kinds[kind].name;
    out.push_back(
        {false, kind, name, object, cell, cellsApart(cell, from_), square, std::move(state)});
  }
  bool squares(size_t kind) {
    const int64_t side = world_.objects().squareOf(kind);
    const Rect area = about(within_);
    if (area.empty()) return true;
    for (int64_t j = floorDiv(area.z, side); j * side < area.z + area.length; ++j)
      for (int64_t i = floorDiv(area.x, side); i * side < area.x + area.width; ++i) {
        const auto there = world_.objects().mustHave(kind, i, j, stop_);
        if (!there) return false;
        if (!there->placed) {
          add(kind, {}, {i * side + side / 2, j * side + side / 2}, side,
              fmt::format("missing: {}", reasonsOf(there->refused)));
          continue;
        }
        const Judged& placed = *there->placed;
        add(kind, world_.objects().objectOf(kind, placed), placed.at.cell, side,
            placed.forced == Refusal::None
                ? fmt::format("one in every {} cells", side)
                : fmt::format("by force: {} refuses it", refusalName(placed.forced)));
      }
    return true;
  }
  bool nearest(size_t kind) {
    const int64_t far = std::min(within_, kNearestObject);
    std::optional<Judged> best;
    size_t count = 0;
    const auto look = [&](const Judged& one) {
      ++count;
      if (!best || cellsApart(one.at.cell, from_) < cellsApart(best->at.cell, from_)) best = one;
    };
    if (!world_.objects().standing(kind, about(far), look, stop_)) return false;
    if (best)
      add(kind, world_.objects().objectOf(kind, *best), best->at.cell, 0,
          fmt::format("nearest of {} within {} cells", count, far));
    else
      add(kind, {}, from_, 0, fmt::format("none within {} cells", far));
    return true;
  }

  const World& world_;
  Cell from_;
  int64_t within_;
  const std::stop_token& stop_;
};

}  // namespace

std::optional<std::vector<ObjectLandmark>> objectLandmarks(
    const World& world, Cell from, int64_t within, const std::stop_token& stop) {
  Search search(world, from, within, stop);
  if (!search.all()) return {};
  return std::move(search.out);
}

}  // namespace acre
