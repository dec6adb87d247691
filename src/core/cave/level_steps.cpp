#include "cave/level_steps.h"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <iterator>
#include <numeric>

#include "base/hash.h"
#include "recipe/level_recipe.h"

namespace acre {
namespace {

/// 0 ... count - 1.
int32_t pick(uint64_t hash, int64_t count) {
  return static_cast<int32_t>((hash >> 32) * static_cast<uint64_t>(count) >> 32);
}

/// True with a chance of `share`.
bool happens(uint64_t hash, double share) {
  return static_cast<double>(hash >> 11) < share * 9007199254740992.0;
}

/// One of several, each as often as its share of the sum says. REQUIRES: a sum above 0.
size_t pickByShare(uint64_t hash, const std::vector<double>& shares) {
  double at = static_cast<double>(hash >> 11) * 0x1p-53 *
              std::accumulate(shares.begin(), shares.end(), 0.0);
  size_t k = 0;
  for (; k + 1 < shares.size() && at >= shares[k]; ++k) at -= shares[k];
  return k;
}

struct Spot {
  int32_t x, z;
};
constexpr Spot kSides[4] = {{0, -1}, {1, 0}, {0, 1}, {-1, 0}};

bool inside(const BitGrid& plane, int32_t margin, int32_t x, int32_t z) {
  return x >= margin && z >= margin && x < plane.width() - margin && z < plane.length() - margin;
}

}  // namespace

void fillByChance(BitGrid& plane, double fill, int32_t margin, uint64_t key) {
  for (int32_t z = 0; z < plane.length(); ++z) {
    const uint64_t row = combine(key, static_cast<uint64_t>(z));
    for (int32_t x = 0; x < plane.width(); ++x)
      plane.set(x, z,
          !inside(plane, margin, x, z) ||
              happens(mix64(row + static_cast<uint64_t>(x) * 0x9E3779B97F4A7C15u), fill));
  }
}

bool walkRandomly(BitGrid& plane, const RandomWalks& walks, int32_t margin, uint64_t key, int every,
    const StepListener& listener, const std::stop_token& stop) {
  const int32_t width = plane.width(), length = plane.length();
  const uint64_t all = static_cast<uint64_t>(width) * static_cast<uint64_t>(length);
  uint64_t open = all - plane.count();
  // Open cells to start from, in the order of the plane.
  std::vector<Spot> starts;
  for (int32_t z = margin; z < length - margin; ++z)
    for (int32_t x = margin; x < width - margin; ++x)
      if (!plane.at(x, z)) starts.push_back({x, z});
  if (starts.empty()) starts.push_back({width / 2, length / 2});
  struct Walker {
    Spot at;
    int heading;
  };
  std::vector<Walker> walkers;
  for (int n = 0; n < walks.walkers; ++n) {
    const uint64_t own = combine(key, static_cast<uint64_t>(n));
    walkers.push_back(
        {starts[static_cast<size_t>(pick(combine(own, 1), static_cast<int64_t>(starts.size())))],
            pick(combine(own, 2), 4)});
  }
  const auto dig = [&](Spot at) {
    for (int32_t dz = -walks.radius; dz <= walks.radius; ++dz)
      for (int32_t dx = -walks.radius; dx <= walks.radius; ++dx) {
        const int32_t x = at.x + dx, z = at.z + dz;
        if (dx * dx + dz * dz > walks.radius * walks.radius + walks.radius ||
            !inside(plane, margin, x, z) || !plane.at(x, z))
          continue;
        plane.set(x, z, false);
        ++open;
      }
  };
  const auto enough = static_cast<double>(all) * walks.untilOpen;
  for (int step = 0; step < walks.steps; ++step) {
    if (step % 256 == 0 && stop.stop_requested()) return false;
    for (size_t n = 0; n < walkers.size(); ++n) {
      Walker& w = walkers[n];
      const uint64_t draw = combine(combine(combine(key, n), 3), static_cast<uint64_t>(step));
      if (happens(draw, walks.turn)) w.heading = (w.heading + (draw & 1 ? 1 : 3)) % 4;
      for (int turn = 0; turn < 4; ++turn) {
        const Spot next{w.at.x + kSides[w.heading].x, w.at.z + kSides[w.heading].z};
        if (inside(plane, margin, next.x, next.z)) {
          w.at = next;
          break;
        }
        w.heading = (w.heading + 1) % 4;
      }
      dig(w.at);
    }
    if (listener && (step + 1) % every == 0) listener(plane);
    if (static_cast<double>(open) >= enough) break;
  }
  return true;
}

// ---- bodies ------------------------------------------------------------------------------------

namespace {

/// A body as it is pushed about, with how many cells of each row lie at its edge: cells of the body
/// that share a side with what is not.
class Body {
 public:
  Body(BitGrid plane, int32_t margin)
      : plane_(std::move(plane)), margin_(margin), edges_(static_cast<size_t>(plane_.length())) {
    for (int32_t z = margin; z < plane_.length() - margin; ++z) countRow(z);
  }

  const BitGrid& plane() const { return plane_; }
  bool inside(Spot s) const { return acre::inside(plane_, margin_, s.x, s.z); }
  bool solid(Spot s) const { return plane_.at(s.x, s.z); }
  int64_t edgeCells() const { return std::accumulate(edges_.begin(), edges_.end(), int64_t{0}); }
  /// The n-th edge cell in the order of the plane. looked: cells looked at are added.
  Spot edgeCell(int64_t n, uint64_t& looked) const {
    int32_t z = margin_;
    while (n >= edges_[static_cast<size_t>(z)]) n -= edges_[static_cast<size_t>(z++)];
    for (int32_t x = margin_;; ++x) {
      ++looked;
      if (atEdge({x, z}) && n-- == 0) return {x, z};
    }
  }
  void set(Spot s, bool solid) {
    change(s, -1);
    plane_.set(s.x, s.z, solid);
    change(s, 1);
  }
  /// Cells within the margin with a cell of the other kind beside them, 64 at a time.
  std::vector<Spot> seam() const {
    std::vector<Spot> out;
    const int32_t width = plane_.width();
    for (int32_t z = margin_; z < plane_.length() - margin_; ++z)
      for (int32_t first = margin_; first < width - margin_; first += 64) {
        const uint64_t own = plane_.bits(first, z);
        uint64_t bits = (own ^ plane_.bits(first - 1, z)) | (own ^ plane_.bits(first + 1, z)) |
                        (own ^ plane_.bits(first, z - 1)) | (own ^ plane_.bits(first, z + 1));
        const int32_t count = std::min(64, width - margin_ - first);
        if (count < 64) bits &= (uint64_t{1} << count) - 1;
        for (; bits; bits &= bits - 1) out.push_back({first + std::countr_zero(bits), z});
      }
    return out;
  }
  void put(BitGrid plane) { plane_ = std::move(plane); }  ///< Edge cells are not counted again.

 private:
  bool atEdge(Spot s) const {
    if (solid(s)) return false;
    return std::any_of(std::begin(kSides), std::end(kSides),
        [&](Spot d) { return plane_.at(s.x + d.x, s.z + d.z); });
  }
  void countRow(int32_t z) {
    for (int32_t x = margin_; x < plane_.width() - margin_; ++x)
      edges_[static_cast<size_t>(z)] += atEdge({x, z});
  }
  /// Takes a cell and those beside it out of the counts, or in again.
  void change(Spot s, int64_t by) {
    const auto one = [&](Spot at) {
      if (inside(at) && atEdge(at)) edges_[static_cast<size_t>(at.z)] += by;
    };
    one(s);
    for (const Spot d : kSides) one({s.x + d.x, s.z + d.z});
  }

  BitGrid plane_;
  int32_t margin_;
  std::vector<int64_t> edges_;
};

/// One flood from an edge cell, over cells that are drawn from its front.
void flood(Body& body, Spot from, bool inward, int size, uint64_t key, uint64_t& looked) {
  std::vector<Spot> front = {from};
  int changed = 0;
  for (uint64_t step = 0; changed < size && !front.empty(); ++step) {
    const auto at =
        static_cast<size_t>(pick(combine(key, step), static_cast<int64_t>(front.size())));
    const Spot spot = front[at];
    front[at] = front.back();
    front.pop_back();
    ++looked;
    if (body.solid(spot) != inward) {
      body.set(spot, inward);
      ++changed;
    } else if (step != 0) {
      continue;
    }
    for (const Spot s : kSides) {
      const Spot next{spot.x + s.x, spot.z + s.z};
      if (body.inside(next) && body.solid(next) != inward) front.push_back(next);
    }
  }
}

}  // namespace

std::optional<BitGrid> bodyOf(int32_t width, int32_t length, const BodyOutline& outline,
    int32_t margin, uint64_t key, const StepListener& listener, Visited& visited, bool reversed,
    const std::stop_token& stop) {
  BitGrid start(width, length);
  const double rx = std::max((width - 2 * margin) / 2.0, 0.5);
  const double rz = std::max((length - 2 * margin) / 2.0, 0.5);
  for (int32_t z = 0; z < length; ++z)
    for (int32_t x = 0; x < width; ++x) {
      const double dx = (x + 0.5 - width / 2.0) / rx, dz = (z + 0.5 - length / 2.0) / rz;
      start.set(x, z, !inside(start, margin, x, z) || (outline.round && dx * dx + dz * dz > 1));
    }
  Body body(std::move(start), margin);
  const uint64_t all = static_cast<uint64_t>(width) * static_cast<uint64_t>(length);
  const auto told = [&] {
    if (listener) listener(body.plane());
  };
  told();
  for (int n = 0; n < outline.floods; ++n) {
    if (stop.stop_requested()) return std::nullopt;
    const uint64_t own = combine(key, static_cast<uint64_t>(n));
    const int64_t edge = body.edgeCells();
    if (edge == 0) break;
    const Spot from = body.edgeCell(pick(combine(own, 2), edge), visited.cells);
    flood(body, from, happens(combine(own, 1), outline.inward), outline.size, combine(own, 3),
        visited.cells);
    visited.all += all;
    told();
  }
  for (int pass = 0; pass < outline.smooth; ++pass) {
    if (stop.stop_requested()) return std::nullopt;
    // Each cell is decided by those before the pass.
    std::vector<Spot> cells = body.seam();
    if (reversed) std::reverse(cells.begin(), cells.end());
    const BitGrid& before = body.plane();
    BitGrid after = before;
    for (const Spot c : cells) {
      int count = 0;
      for (int32_t dz = -1; dz <= 1; ++dz)
        for (int32_t dx = -1; dx <= 1; ++dx)
          count += (dx != 0 || dz != 0) && before.at(c.x + dx, c.z + dz);
      if (count != 4) after.set(c.x, c.z, count > 4);
    }
    body.put(std::move(after));
    visited.cells += cells.size();
    visited.all += all;
    told();
  }
  return body.plane();
}

void cutToBody(BitGrid& plane, const BitGrid& body) {
  for (int32_t z = 0; z < plane.length(); ++z)
    for (int32_t word = 0; word * 64 < plane.width(); ++word)
      plane.setWord(word, z, 0, plane.bits(word * 64, z) | body.bits(word * 64, z));
}

// ---- rooms -------------------------------------------------------------------------------------

Result<RoomPiece> readRoom(const std::string& text, const std::string& where) {
  const auto refuse = [&](std::string what, std::string accepted) {
    return Error{Error::Code::InvalidInput, std::move(what), where, std::move(accepted)};
  };
  RoomPiece out;
  std::string line;
  const auto take = [&]() -> bool {
    if (out.length == 0) out.width = static_cast<int32_t>(line.size());
    if (static_cast<int32_t>(line.size()) != out.width) return false;
    out.cells.insert(out.cells.end(), line.begin(), line.end());
    ++out.length;
    line.clear();
    return true;
  };
  constexpr size_t kMost = 256;
  for (const char c : text) {
    if (c == '\r') continue;
    if (c == '\n') {
      if (!take())
        return refuse(fmt::format("row {} has {} cells", out.length + 1, line.size()),
            fmt::format("{}, as the rows before", out.width));
      continue;
    }
    if (c != '#' && c != '.' && c != ' ' && !isMark(c))
      return refuse(fmt::format("row {} holds a byte {}", out.length + 1,
                        static_cast<int>(static_cast<unsigned char>(c))),
          "'#' solid, '.' open, ' ' as it is, letters and digits for places");
    line += c;
    if (line.size() > kMost || static_cast<size_t>(out.length) >= kMost)
      return refuse("the room is too large", fmt::format("at most {0} x {0} cells", kMost));
  }
  if (!line.empty() && !take())
    return refuse(fmt::format("row {} has {} cells", out.length + 1, line.size()),
        fmt::format("{}, as the rows before", out.width));
  if (out.width == 0 || out.length == 0) return refuse("an empty room", "at least one cell");
  return out;
}

RoomPiece RoomPiece::turned(int quarters) const {
  if (quarters % 4 == 0) return *this;
  RoomPiece out{length, width, std::vector<char>(cells.size())};
  for (int32_t z = 0; z < length; ++z)
    for (int32_t x = 0; x < width; ++x)
      out.cells[static_cast<size_t>(x) * static_cast<size_t>(length) +
                static_cast<size_t>(length - 1 - z)] = at(x, z);
  return out.turned(quarters % 4 - 1);
}

std::vector<PlacedRoom> placeRooms(BitGrid& plane, const std::vector<RoomPiece>& pieces,
    const std::vector<double>& shares, int count, int32_t distance, bool turn, int tries,
    int32_t margin, uint64_t key, const StepListener& listener) {
  std::vector<PlacedRoom> out;
  struct Box {
    int32_t x, z, width, length;
  };
  std::vector<Box> taken;
  for (int n = 0; n < count && !pieces.empty(); ++n)
    for (int t = 0; t < tries; ++t) {
      const uint64_t own =
          combine(combine(key, static_cast<uint64_t>(n)), static_cast<uint64_t>(t));
      PlacedRoom room;
      room.piece = shares.empty() ? static_cast<size_t>(
                                        pick(combine(own, 1), static_cast<int64_t>(pieces.size())))
                                  : pickByShare(combine(own, 1), shares);
      room.quarters = turn ? pick(combine(own, 2), 4) : 0;
      const RoomPiece piece = pieces[room.piece].turned(room.quarters);
      const int32_t freeX = plane.width() - 2 * margin - piece.width + 1;
      const int32_t freeZ = plane.length() - 2 * margin - piece.length + 1;
      if (freeX < 1 || freeZ < 1) continue;
      room.x = margin + pick(combine(own, 3), freeX);
      room.z = margin + pick(combine(own, 4), freeZ);
      const bool clear = std::none_of(taken.begin(), taken.end(), [&](const Box& b) {
        return room.x < b.x + b.width + distance && b.x < room.x + piece.width + distance &&
               room.z < b.z + b.length + distance && b.z < room.z + piece.length + distance;
      });
      if (!clear) continue;
      for (int32_t z = 0; z < piece.length; ++z)
        for (int32_t x = 0; x < piece.width; ++x)
          if (const char c = piece.at(x, z); c != ' ') plane.set(room.x + x, room.z + z, c == '#');
      taken.push_back({room.x, room.z, piece.width, piece.length});
      out.push_back(room);
      if (listener) listener(plane);
      break;
    }
  return out;
}

// ---- courses -----------------------------------------------------------------------------------

namespace {

/// The cells within the margin as places of ways.
class CourseGround {
 public:
  CourseGround(const BitGrid& plane, const CoursePlan& how, const std::vector<float>& values,
      int32_t margin, uint64_t key)
      : how_(how),
        key_(key),
        wide_(plane.width() - 2 * margin),
        deep_(plane.length() - 2 * margin) {
    closeHighest(values, how.share, closed_);
    size_t n = 0;
    for (int32_t z = 0; z < deep_; ++z)
      for (int32_t x = 0; x < wide_; ++x, ++n)
        if (!how.dig && plane.at(x + margin, z + margin)) closed_[n] = 1;
    taken_.assign(closed_.size(), 0);
  }

  int32_t x(size_t place) const { return static_cast<int32_t>(place) % wide_; }
  int32_t z(size_t place) const { return static_cast<int32_t>(place) / wide_; }

  /// The places of a course, or its fault. Empty and without one: it was stopped.
  std::vector<size_t> find(int number, CourseFault& fault, const std::stop_token& stop) {
    const bool south = number % 2 == 1;
    const auto own = [&](uint64_t end) {
      return pick(
          combine(combine(key_, static_cast<uint64_t>(number)), end), south ? wide_ : deep_);
    };
    const auto start = firstFree(south, own(1), false), goal = firstFree(south, own(2), true);
    fault = !start                   ? CourseFault::StartBlocked
            : !goal || goal == start ? CourseFault::GoalBlocked
                                     : CourseFault::None;
    if (fault != CourseFault::None) return {};
    const uint64_t rough = combine(key_, kRough);
    const auto cost = [&](size_t, size_t to, bool) {
      const uint64_t h =
          combine(combine(rough, static_cast<uint64_t>(x(to))), static_cast<uint64_t>(z(to)));
      return WayField::kStraight + static_cast<int64_t>(h & 3);
    };
    auto way = WayField{wide_, deep_, false, closed_}.cheapest(
        *start, *goal, how_.join, cost, [&](size_t n) { return taken_[n] != 0; }, stop);
    if (stop.stop_requested()) return {};
    constexpr int64_t kLengthOfStep = 256;
    if (way.empty())
      fault = CourseFault::NoPath;
    else if (isTooLong(static_cast<int64_t>(way.size() - 1) * kLengthOfStep, how_.winding,
                 x(way.back()) - x(way[0]), z(way.back()) - z(way[0])))
      fault = CourseFault::TooLong;
    if (fault != CourseFault::None) return {};
    for (const size_t n : way) taken_[n] = 1;
    return way;
  }

 private:
  static constexpr int32_t kSnaps = 16;   // Rows to try: the drawn one, +1, -1, +2, ...
  static constexpr uint64_t kRough = 64;  // No course has that number.

  /// The free place nearest to a side in a row (a column when going south), or in one beside it.
  std::optional<size_t> firstFree(bool south, int32_t row, bool farSide) const {
    const int32_t along = south ? deep_ : wide_, rows = south ? wide_ : deep_;
    for (int32_t d = 0; d < kSnaps; ++d)
      for (const int32_t side : {d, -d}) {
        const int32_t r = row + side;
        if (r < 0 || r >= rows) continue;
        for (int32_t k = 0; k < along; ++k) {
          const int32_t at = farSide ? along - 1 - k : k;
          const size_t n = static_cast<size_t>(south ? at : r) * static_cast<size_t>(wide_) +
                           static_cast<size_t>(south ? r : at);
          if (!closed_[n]) return n;
        }
      }
    return {};
  }

  const CoursePlan& how_;
  uint64_t key_;
  int32_t wide_, deep_;
  std::vector<uint8_t> closed_, taken_;
};

}  // namespace

std::optional<std::vector<LaidCourse>> layCourses(BitGrid& plane, const CoursePlan& how,
    const std::vector<float>& values, int32_t margin, uint64_t key, const StepListener& listener,
    const std::stop_token& stop) {
  CourseGround ground(plane, how, values, margin, key);
  std::vector<LaidCourse> out;
  for (int number = 0; number < how.count; ++number) {
    LaidCourse course;
    course.number = number;
    const auto way = ground.find(number, course.fault, stop);
    if (stop.stop_requested()) return {};
    for (const size_t n : way) {
      const int32_t x = ground.x(n) + margin, z = ground.z(n) + margin;
      course.cells.push_back(static_cast<uint32_t>(z * plane.width() + x));
      if (how.dig) plane.set(x, z, false);
    }
    out.push_back(std::move(course));
    if (listener) listener(plane);
  }
  return out;
}

}  // namespace acre
