#include "field/skyline.h"

#include <algorithm>
#include <cmath>

#include "base/hash.h"
#include "recipe/walk.h"

namespace acre {
namespace {

constexpr double kOne = 65536;

int64_t fixed(double v) {
  return static_cast<int64_t>(std::floor(v * kOne + 0.5));
}

}  // namespace

Skyline::Skyline(const WalkSource& source, uint64_t seed, MemoLimit memo)
    : low_(fixed(source.low)),
      high_(fixed(source.high)),
      slope_(std::max<int64_t>(1, fixed(source.slope))),
      change_(std::max<int64_t>(1, fixed(source.change))),
      zone_(slope_ * slope_ / change_),
      length_(walkSegment(source)),
      limits_(source.limits),
      seed_(seed),
      segments_(memo),
      columns_(std::move(memo)) {}

auto Skyline::step(State at, int64_t column) const -> State {
  const uint64_t draws = static_cast<uint64_t>(2 * change_ + 1);
  int64_t draw = static_cast<int64_t>((uint64_t{axisHash(seed_, column)} * draws) >> 32) - change_;
  if (limits_) {
    if (at.slope > 0 && at.height > high_ - zone_) draw = -std::abs(draw);
    if (at.slope < 0 && at.height < low_ + zone_) draw = std::abs(draw);
  }
  State next;
  next.slope = std::clamp(at.slope + draw, -slope_, slope_);
  next.height = at.height + next.slope;
  if (limits_ && (next.height >= high_ || next.height <= low_)) {
    next.height = std::clamp(next.height, low_, high_);
    next.slope = 0;
  }
  return next;
}

auto Skyline::anchor(int64_t k) const -> State {
  State at{(low_ + high_) / 2, 0};
  const int64_t first = k * length_;
  for (int64_t column = first - length_; column < first; ++column) at = step(at, column);
  return at;
}

/// The height of column i of a segment; n matters in the second half alone.
float Skyline::mixed(int64_t i, State f, State n) const {
  int64_t height = f.height;
  const int64_t half = length_ / 2;
  if (i >= half) {
    const int64_t t = (i - half) * 65536 / half;
    const int64_t c = t * t / 65536 * (3 * 65536 - 2 * t) / 65536;
    height += (n.height - f.height) * c / 65536;
  }
  return static_cast<float>(static_cast<double>(height) / kOne);
}

auto Skyline::make(int64_t k) const -> Heights {
  const int64_t first = k * length_;
  State f = anchor(k), n{(low_ + high_) / 2, 0};
  Heights out;
  out.of.resize(static_cast<size_t>(length_));
  for (int64_t i = 0; i < length_; ++i) {
    out.of[static_cast<size_t>(i)] = mixed(i, f, n);
    f = step(f, first + i);
    n = step(n, first + i);
  }
  return out;
}

float Skyline::alone(int64_t column) const {
  const int64_t k = floorDiv(column, length_), first = k * length_, i = column - first;
  State f = anchor(k), n{(low_ + high_) / 2, 0};
  for (int64_t at = first; at < column; ++at) f = step(f, at);
  if (i >= length_ / 2)
    for (int64_t at = first; at < column; ++at) n = step(n, at);
  return mixed(i, f, n);
}

auto Skyline::segmentAt(int64_t k) const -> std::shared_ptr<const Heights> {
  return segments_.get(k, {}, [&] { return std::make_shared<const Heights>(make(k)); });
}

void Skyline::points(const Points& places, float* out) const {
  const auto segmentOf = [&](int i) { return floorDiv(places.cell[kX][i], length_); };
  for (int i = 0; i < places.count;) {
    const int64_t k = segmentOf(i);
    int end = i + 1;
    while (end < places.count && segmentOf(end) == k) ++end;
    const int64_t* cells = places.cell[kX];
    if (end == i + 1 && places.count > 1) {  // Places far apart, as samples of the world are.
      out[i] = columns_
                   .get(cells[i], {},
                       [&] { return std::make_shared<const Column>(Column{alone(cells[i])}); })
                   ->height;
    } else {
      const auto segment = segmentAt(k);
      for (int at = i; at < end; ++at)
        out[at] = segment->of[static_cast<size_t>(cells[at] - k * length_)];
    }
    i = end;
  }
}

}  // namespace acre
