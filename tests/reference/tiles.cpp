#include "reference/tiles.h"

#include <algorithm>
#include <map>
#include <set>
#include <vector>

#include "base/hash.h"
#include "base/seed.h"

namespace reference {
namespace {

using acre::TileMethod;

/// A mask as the cells that are inside, by their place in the method's order.
using Inside = std::vector<bool>;

/// What each place weighs.
std::vector<int> weights(TileMethod method) {
  switch (method) {
    case TileMethod::Corners:
      return {8, 4, 2, 1};
    case TileMethod::Neighbours:
      return {1, 2, 4, 8, 16, 32, 64, 128};
    case TileMethod::Sides:
      return {1, 2, 4, 8};
    case TileMethod::Plain:
      break;
  }
  return {};
}

int maskOf(TileMethod method, const Inside& in) {
  int mask = 0;
  const std::vector<int> weigh = weights(method);
  for (size_t k = 0; k < in.size(); ++k)
    if (in[k]) mask += weigh[k];
  return mask;
}

Inside insideOf(TileMethod method, int mask) {
  Inside in;
  for (const int weight : weights(method)) in.push_back((mask & weight) != 0);
  return in;
}

Inside reduce(TileMethod method, Inside in) {
  if (method == TileMethod::Neighbours)
    for (size_t k = 1; k < 8; k += 2) in[k] = in[k] && in[k - 1] && in[(k + 1) % 8];
  return in;
}

/// Every place goes to the next, of eight to the next but one.
Inside turn(const Inside& in) {
  Inside out(in.size());
  const size_t by = in.size() == 8 ? 2 : 1;
  for (size_t k = 0; k < in.size(); ++k) out[(k + by) % in.size()] = in[k];
  return out;
}

/// East for west: the order runs the other way, from north, or from the upper right corner.
Inside mirror(TileMethod method, const Inside& in) {
  Inside out(in.size());
  const size_t size = in.size(), from = method == TileMethod::Corners ? 1 : 0;
  for (size_t k = 0; k < size; ++k) out[(from + size - k) % size] = in[k];
  return out;
}

}  // namespace

uint16_t tileValue(const acre::Recipe& recipe, const acre::Rect& plane, int number, acre::Cell cell,
    const std::function<std::string(acre::Cell)>& material) {
  std::vector<const acre::TileGroup*> groups;
  for (const acre::TileGroup& one : recipe.tiles->groups)
    if (one.on) groups.push_back(&one);
  const acre::TileGroup& group = *groups[static_cast<size_t>(number)];
  const acre::TileSet* set = nullptr;
  for (const acre::TileSet& one : recipe.tiles->sets)
    if (one.id == group.set) set = &one;
  const TileMethod method = set->method;

  const auto within = [&](acre::Cell at) { return plane.contains(at); };
  const auto inside = [&](acre::Cell at) {
    if (!within(at)) {
      if (group.rim == acre::TileRim::Inside) return true;
      if (group.rim == acre::TileRim::Outside) return false;
      at.x = std::min(std::max(at.x, plane.x), plane.x + plane.width - 1);
      at.z = std::min(std::max(at.z, plane.z), plane.z + plane.length - 1);
    }
    const std::string id = material(at);
    for (size_t k = static_cast<size_t>(number); k < groups.size(); ++k)
      for (const std::string& one : groups[k]->materials)
        if (one == id) return true;
    return false;
  };
  std::vector<acre::Cell> around;
  const auto [x, z] = cell;
  bool there = within(cell);
  if (method == TileMethod::Corners) {
    around = {{x, z}, {x + 1, z}, {x + 1, z + 1}, {x, z + 1}};
    there = std::any_of(around.begin(), around.end(), within);
  } else if (method == TileMethod::Neighbours) {
    around = {{x, z - 1}, {x + 1, z - 1}, {x + 1, z}, {x + 1, z + 1}, {x, z + 1}, {x - 1, z + 1},
        {x - 1, z}, {x - 1, z - 1}};
  } else if (method == TileMethod::Sides) {
    around = {{x, z - 1}, {x + 1, z}, {x, z + 1}, {x - 1, z}};
  }
  if (!there || (method != TileMethod::Corners && !inside(cell))) return 0;
  Inside in;
  for (const acre::Cell at : around) in.push_back(inside(at));
  const int mask = maskOf(method, reduce(method, in));
  if (method == TileMethod::Corners && mask == 0) return 0;

  // All masks there are, by their case.
  std::set<int> masks;
  for (int m = 0; m < 1 << in.size(); ++m)
    masks.insert(maskOf(method, reduce(method, insideOf(method, m))));
  const auto rank = [](const std::set<int>& of, int m) {
    return static_cast<int>(std::distance(of.begin(), of.find(m)));
  };
  // By orientation, what a mask becomes.
  const int ways = set->turns == acre::TileTurns::None      ? 1
                   : set->turns == acre::TileTurns::Quarter ? 4
                                                            : 8;
  const auto laid = [&](int m, int orientation) {
    Inside at = insideOf(method, m);
    if (orientation >= 4) at = mirror(method, at);
    for (int t = 0; t < orientation % 4; ++t) at = turn(at);
    return maskOf(method, at);
  };
  std::map<int, int> leastOf;
  std::set<int> drawn;
  for (const int m : masks) {
    int least = m;
    for (int way = 0; way < ways; ++way) least = std::min(least, laid(m, way));
    leastOf[m] = least;
    drawn.insert(least);
  }
  int orientation = 0;
  while (laid(leastOf[mask], orientation) != mask) ++orientation;

  std::vector<int32_t> weigh = set->weights;
  for (const acre::TileCaseWeights& one : set->cases)
    if (one.number == rank(masks, mask)) weigh = one.weights;
  uint64_t all = 0;
  for (const int32_t w : weigh) all += static_cast<uint64_t>(w);
  const uint64_t key = acre::combine(
      acre::combine(acre::seedNumber(recipe.seed), 0x54696C6573), acre::hashText(group.id));
  const uint64_t u = acre::nodeHash(
      acre::axisHash(acre::combine(key, 0), x), acre::axisHash(acre::combine(key, 2), z));
  const uint64_t at = u * all >> 32;
  int variant = 0;
  for (uint64_t sum = static_cast<uint64_t>(weigh[0]); at >= sum; ++variant)
    sum += static_cast<uint64_t>(weigh[static_cast<size_t>(variant) + 1]);
  return static_cast<uint16_t>(1 + rank(drawn, leastOf[mask]) +
                               static_cast<int>(drawn.size()) * variant + 8192 * orientation);
}

}  // namespace reference
