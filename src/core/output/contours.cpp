#include "output/contours.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

namespace acre {
namespace {

/// Edges between samples: the horizontal one east of sample (i, j) is 2*(j*width + i), the vertical
/// one south of it 2*(j*width + i) + 1.
using EdgeId = int64_t;

struct Segment {
  EdgeId from;
  EdgeId to;
};

class Marcher {
 public:
  Marcher(const float* values, int32_t width, int32_t height, ptrdiff_t stride)
      : values_(values), width_(width), height_(height), stride_(stride) {}

  float at(int32_t i, int32_t j) const { return values_[j * stride_ + i]; }

  /// Segments of one square at one level, higher ground to their right.
  void square(int32_t i, int32_t j, float level, std::vector<Segment>& out) const {
    const float nw = at(i, j), ne = at(i + 1, j), se = at(i + 1, j + 1), sw = at(i, j + 1);
    const int above = (nw >= level ? 1 : 0) | (ne >= level ? 2 : 0) | (se >= level ? 4 : 0) |
                      (sw >= level ? 8 : 0);
    const EdgeId north = 2 * (int64_t{j} * width_ + i), west = north + 1;
    const EdgeId east = west + 2, south = north + 2 * int64_t{width_};
    const auto add = [&](EdgeId from, EdgeId to) { out.push_back({from, to}); };
    const bool middle = (nw + ne + se + sw) * 0.25f >= level;
    switch (above) {
      case 1:
        return add(north, west);
      case 2:
        return add(east, north);
      case 3:
        return add(east, west);
      case 4:
        return add(south, east);
      case 5:
        return middle ? (add(north, east), add(south, west)) : (add(north, west), add(south, east));
      case 6:
        return add(south, north);
      case 7:
        return add(south, west);
      case 8:
        return add(west, south);
      case 9:
        return add(north, south);
      case 10:
        return middle ? (add(west, north), add(east, south)) : (add(east, north), add(west, south));
      case 11:
        return add(east, south);
      case 12:
        return add(west, east);
      case 13:
        return add(north, east);
      case 14:
        return add(west, north);
      default:
        return;
    }
  }

  ContourPoint pointOn(EdgeId edge, float level) const {
    const auto i = static_cast<int32_t>(edge / 2 % width_),
               j = static_cast<int32_t>(edge / 2 / width_);
    const bool vertical = edge & 1;
    const float a = at(i, j), b = vertical ? at(i, j + 1) : at(i + 1, j);
    const float t = a == b ? 0.5f : std::clamp((level - a) / (b - a), 0.0f, 1.0f);
    const auto x = static_cast<float>(i), z = static_cast<float>(j);
    return vertical ? ContourPoint{x, z + t} : ContourPoint{x + t, z};
  }

  /// Joins the segments of a level end to end.
  void link(std::vector<Segment>& segments, double level, std::vector<ContourLine>& out) const {
    // Every edge begins at most one segment and ends at most one.
    std::sort(segments.begin(), segments.end(),
        [](const Segment& a, const Segment& b) { return a.from < b.from; });
    std::vector<EdgeId> ends(segments.size());
    std::transform(
        segments.begin(), segments.end(), ends.begin(), [](const Segment& s) { return s.to; });
    std::sort(ends.begin(), ends.end());
    std::vector<bool> used(segments.size());
    const auto next = [&](EdgeId edge) {
      const auto found = std::lower_bound(segments.begin(), segments.end(), edge,
          [](const Segment& s, EdgeId e) { return s.from < e; });
      return found != segments.end() && found->from == edge
                 ? static_cast<ptrdiff_t>(found - segments.begin())
                 : -1;
    };
    const auto walk = [&](size_t first) {
      ContourLine line;
      line.level = level;
      const auto height = static_cast<float>(level);
      line.points.push_back(pointOn(segments[first].from, height));
      for (auto k = static_cast<ptrdiff_t>(first); k >= 0 && !used[static_cast<size_t>(k)];
           k = next(segments[static_cast<size_t>(k)].to)) {
        used[static_cast<size_t>(k)] = true;
        line.points.push_back(pointOn(segments[static_cast<size_t>(k)].to, height));
        line.closed = segments[static_cast<size_t>(k)].to == segments[first].from;
      }
      out.push_back(std::move(line));
    };
    for (size_t s = 0; s < segments.size(); ++s)  // Lines that begin at the rim.
      if (!std::binary_search(ends.begin(), ends.end(), segments[s].from)) walk(s);
    for (size_t s = 0; s < segments.size(); ++s)
      if (!used[s]) walk(s);
  }

 private:
  const float* values_;
  int32_t width_, height_;
  ptrdiff_t stride_;
};

}  // namespace

std::vector<ContourLine> contours(
    const float* values, int32_t width, int32_t height, ptrdiff_t stride, double interval) {
  std::vector<ContourLine> lines;
  if (width < 2 || height < 2 || !(interval > 0)) return lines;
  const Marcher marcher(values, width, height, stride);
  std::map<int64_t, std::vector<Segment>> levels;
  for (int32_t j = 0; j + 1 < height; ++j)
    for (int32_t i = 0; i + 1 < width; ++i) {
      const auto [low, high] = std::minmax(
          {marcher.at(i, j), marcher.at(i + 1, j), marcher.at(i, j + 1), marcher.at(i + 1, j + 1)});
      const double from = std::floor(static_cast<double>(low) / interval);
      const double to = std::ceil(static_cast<double>(high) / interval);
      if (!(to - from < kMostContourLevels)) continue;  // Also NaN.
      for (auto k = static_cast<int64_t>(from); k <= static_cast<int64_t>(to); ++k) {
        const auto level = static_cast<float>(static_cast<double>(k) * interval);
        if (level <= low || level > high) continue;
        const auto known = levels.find(k);
        if (known == levels.end() && levels.size() >= kMostContourLevels) continue;
        marcher.square(i, j, level, levels[k]);
      }
    }
  for (auto& [k, segments] : levels)
    marcher.link(segments, static_cast<double>(k) * interval, lines);
  return lines;
}

}  // namespace acre
