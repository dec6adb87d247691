#include "water/network_grid.h"

#include <map>
#include <vector>

namespace acre {
namespace {

/// Tells every sample what its brick is told; each brick is asked once.
template <class Value, class Ask>
bool overBricks(const Drainage& drainage, const SampleGrid& grid, Value* out, ptrdiff_t stride,
    const std::stop_token& stop, Ask ask) {
  try {
    Drainage::Reader net(drainage, stop);
    std::map<Brick, Value> known;
    const int64_t scale = drainage.land().scale();
    for (int32_t j = 0; j < grid.length; ++j) {
      if (stop.stop_requested()) return false;
      Brick last;
      Value value{};
      for (int32_t i = 0; i < grid.width; ++i) {
        const Brick b = brickOf(
            {floorDiv(grid.x + i * grid.step, scale), floorDiv(grid.z + j * grid.step, scale)});
        if (i == 0 || b != last) {
          const auto [found, added] = known.try_emplace(b);
          if (added) found->second = ask(net, b);
          value = found->second;
          last = b;
        }
        out[j * stride + i] = value;
      }
    }
  } catch (const Drainage::Reader::Stopped&) {
    return false;
  }
  return true;
}

}  // namespace

/// The next brick on land or in a lake; nothing where the water leaves.
std::optional<Brick> Basins::nextOf(Drainage::Reader& net, Brick at) {
  const DrainAt drain = net.drain(at);
  Brick next = drain.next;
  if (drain.drains == Drains::Sink) return {};
  if (drain.drains == Drains::Lake) {
    if (drain.next != at) return drain.next;  // All of a lake gathers at its pit.
    const auto way = net.outlet(at);
    if (!way || !way->found) return {};
    next = way->way[1];
  }
  if (net.level(next).sea) return {};
  return next;
}

uint32_t Basins::of(Drainage::Reader& net, Brick from) {
  if (net.level(from).sea) return 0;
  std::vector<Brick> way;
  End end{from, 0};
  for (Brick at = from;;) {
    const auto known = known_.find(at);
    const auto steps = static_cast<int>(way.size());
    if (known != known_.end() && steps + known->second.steps <= kLongestRiver) {
      end = {known->second.brick, known->second.steps};
      break;
    }
    const std::optional<Brick> next = steps < kLongestRiver ? nextOf(net, at) : std::nullopt;
    if (!next) {
      end = {at, 0};
      // What was cut off on the way says nothing of where those after it come to.
      if (steps == kLongestRiver) return told(end.brick);
      known_[at] = end;
      break;
    }
    way.push_back(at);
    at = *next;
  }
  for (size_t k = way.size(); k-- > 0;) known_[way[k]] = {end.brick, ++end.steps};
  return told(end.brick);
}

bool drainedOver(const Drainage& drainage, const SampleGrid& grid, float* out, ptrdiff_t stride,
    const std::stop_token& stop) {
  const int64_t scale = drainage.land().scale();
  return overBricks(drainage, grid, out, stride, stop, [&](Drainage::Reader& net, Brick b) {
    const DrainAt drain = net.drain(b);
    if (drain.drains == Drains::Sea) return 0.0f;
    return static_cast<float>(
        scale * scale * (drain.drains == Drains::Lake ? net.lakeArea(drain.next) : net.area(b)));
  });
}

bool basinsOver(const Drainage& drainage, const SampleGrid& grid, uint32_t* out, ptrdiff_t stride,
    const std::stop_token& stop) {
  Basins basins(drainage.seed());
  return overBricks(drainage, grid, out, stride, stop,
      [&](Drainage::Reader& net, Brick b) { return basins.of(net, b); });
}

}  // namespace acre
