#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <set>
#include <vector>

#include "base/hash.h"
#include "reference/evaluator.h"

// The Biomes stage one cell at a time: rules read one after the other, sites looked at in all
// squares within five of the place, borders averaged anew for every cell.
namespace reference {
namespace {

using acre::Biome;
using acre::Biomes;
__extension__ using Wide = __int128;

constexpr int kKnots = 65, kFine = 129, kAltitudes = 33;

struct Three {
  double v[3] = {0, 0, 0};
};

Three plus(Three a, const Three& b) {
  for (int c = 0; c < 3; ++c) a.v[c] += b.v[c];
  return a;
}
Three over(Three a, int n) {
  for (double& v : a.v) v /= n;
  return a;
}

struct Shape {
  float v[3];
};
Shape rounded(const Three& t) {
  return {{static_cast<float>(t.v[0]), static_cast<float>(t.v[1]), static_cast<float>(t.v[2])}};
}
Shape between(const Shape& a, const Shape& b, float t) {
  Shape out{};
  for (int c = 0; c < 3; ++c) out.v[c] = a.v[c] + t * (b.v[c] - a.v[c]);
  return out;
}

Three reliefOf(const Biome* biome) {
  if (!biome) return {{1, 0, 0}};
  return {{biome->relief.factor, biome->relief.raise, biome->relief.rough}};
}

float partOf(const acre::AxisScale& axis, int k, int n) {
  return static_cast<float>(axis.low + (axis.high - axis.low) * k / n);
}

/// Which of n equal parts of an axis holds a value, the outermost endless.
int partHolding(const acre::AxisScale& axis, float v, int n) {
  int k = 0;
  while (k + 1 < n && v >= partOf(axis, k + 1, n)) ++k;
  return k;
}

bool within(const acre::Span& span, float v) {
  return (!span.low || v >= static_cast<float>(*span.low)) &&
         (!span.high || v < static_cast<float>(*span.high));
}

/// Knot before a value and the way to the next.
std::pair<int, float> place(float v, float low, float scale, int steps) {
  float at = (v - low) * scale;
  at = std::min(std::max(at, 0.0f), static_cast<float>(steps));
  const int knot = std::min(static_cast<int>(at), steps - 1);
  return {knot, at - static_cast<float>(knot)};
}

struct Region {
  int64_t i, j;
  uint32_t hash;
  acre::Cell site;
  float distance;  ///< Squared.
  float part;
  float x = 0, z = 0;  ///< From the place to the site, in squares.
};

}  // namespace

/// What the evaluator of one recipe knows about its biomes.
class Chart {
 public:
  Chart(const acre::Recipe& recipe, uint64_t seed)
      : recipe_(recipe),
        b_(recipe.biomes),
        x_(acre::scaleOf(recipe, b_.x)),
        y_(acre::scaleOf(recipe, b_.y)),
        seed_(acre::combine(acre::combine(seed, 0x42696F6D6573u), 0x526567696F6E73u)) {
    double low = std::numeric_limits<double>::infinity(), high = -low;
    float last = -std::numeric_limits<float>::infinity();
    for (const acre::Slice& slice : b_.slices) {
      if (!slice.below) continue;
      const double sea = slice.below->fromSea ? recipe.frame.seaLevel : 0;
      last = std::max(last, static_cast<float>(sea + slice.below->value));
      ends_.push_back(last);
      const double margin = std::max(1.0, b_.border.altitude);
      low = std::min(low, static_cast<double>(last) - margin);
      high = std::max(high, static_cast<double>(last) + margin);
    }
    for (const Biome& biome : b_.list)
      if (b_.rules == acre::ChartRules::Points && biome.ideal && biome.ideal->altitude) {
        const double at = recipe.frame.seaLevel + *biome.ideal->altitude;
        low = std::min(low, at - b_.altitudeReach / 2);
        high = std::max(high, at + b_.altitudeReach / 2);
      }
    if (!(low < high)) return;
    layered_ = true;
    low_ = low;
    span_ = high - low;
    blurA_ = static_cast<int>(
        std::min(32.0, std::floor(b_.border.altitude / (span_ / (kAltitudes - 1)) + 0.5)));
  }

  size_t sliceOf(float altitude) const {
    size_t slice = 0;
    while (slice < ends_.size() && altitude >= ends_[slice]) ++slice;
    return slice;
  }
  const Biome* fixed(size_t slice) const {
    return b_.slices.empty() ? nullptr : acre::biomeOf(recipe_, b_.slices[slice].biome);
  }

  const Biome* choose(float x, float y, float altitude) const {
    const size_t slice = sliceOf(altitude);
    if (const Biome* whole = fixed(slice)) return whole;
    if (b_.rules == acre::ChartRules::Points) {
      const Biome* best = nullptr;
      float lowest = std::numeric_limits<float>::infinity();
      const auto scaleX = static_cast<float>(1 / (x_.high - x_.low));
      const auto scaleY = static_cast<float>(1 / (y_.high - y_.low));
      for (const Biome& biome : b_.list) {
        if (!biome.ideal) continue;
        const float dx = (x - static_cast<float>(biome.ideal->x)) * scaleX;
        const float dy = (y - static_cast<float>(biome.ideal->y)) * scaleY;
        float da = 0;
        if (biome.ideal->altitude)
          da = (altitude - static_cast<float>(recipe_.frame.seaLevel + *biome.ideal->altitude)) *
               static_cast<float>(1 / b_.altitudeReach);
        const double w = biome.ideal->weight;
        const float score = ((dx * dx + dy * dy) + da * da) * static_cast<float>(1 / (w * w));
        if (!(score < lowest)) continue;
        lowest = score;
        best = &biome;
      }
      return best;
    }
    for (const acre::Area& area : b_.areas) {
      if (!area.slices.empty() &&
          (b_.slices.empty() || std::find(area.slices.begin(), area.slices.end(),
                                    b_.slices[slice].id) == area.slices.end()))
        continue;
      if (area.painting) {
        const acre::Painting& p = *area.painting;
        const int column = partHolding(x_, x, p.columns), row = partHolding(y_, y, p.rows);
        const uint16_t painted = p.cells[static_cast<size_t>(row * p.columns + column)];
        if (painted) return acre::biomeOf(recipe_, p.biomes[painted - size_t{1}]);
      } else if (within(area.x, x) && within(area.y, y)) {
        return acre::biomeOf(recipe_, area.biome);
      }
    }
    return nullptr;
  }

  const Biome* drawn(uint32_t hash, float altitude) const {
    if (const Biome* whole = fixed(sliceOf(altitude))) return whole;
    std::vector<float> sums;
    double sum = 0;
    for (const Biome& biome : b_.list) sums.push_back(static_cast<float>(sum += biome.weight));
    if (sums.empty() || sums.back() <= 0) return nullptr;
    const uint32_t h2 = (hash ^ (hash >> 16)) * 0x7FEB352Du;
    const uint32_t h3 = (h2 ^ (h2 >> 15)) * 0x846CA68Bu;
    const float r = static_cast<float>(h3 >> 8) / 16777216.0f * sums.back();
    const Biome* last = nullptr;
    for (size_t k = 0; k < sums.size(); ++k) {
      const float before = k == 0 ? 0 : sums[k - 1];
      if (sums[k] > before) last = &b_.list[k];
      if (r < sums[k]) break;
    }
    return last;
  }

  /// All sites within five squares of a place, and which is the nearest.
  std::pair<std::vector<Region>, size_t> sitesAbout(
      const int64_t cell[2], const int64_t q[2]) const {
    const auto step = static_cast<int64_t>(std::floor(0x1p48 / b_.regions.size + 0.5));
    int64_t home[2];
    float at[2];
    for (const int a : {0, 1}) {
      const auto tag = static_cast<uint64_t>(2 * a);
      Wide p = static_cast<Wide>(cell[a]) * step + ((static_cast<Wide>(q[a]) * step) >> 16);
      p += static_cast<Wide>(acre::combine(seed_, 2 * tag + 1) >> 16);
      home[a] = static_cast<int64_t>(p >> 48);
      at[a] =
          static_cast<float>(static_cast<uint32_t>(static_cast<uint64_t>(p >> 24)) & 0xFFFFFFu) /
          16777216.0f;
    }
    const auto jitter = static_cast<float>(b_.regions.jitter);
    std::vector<Region> all;
    for (int j = -5; j <= 5; ++j)
      for (int i = -5; i <= 5; ++i) {
        Region r{home[0] + i, home[1] + j, 0, {}, 0, 0};
        r.hash = acre::nodeHash(acre::axisHash(acre::combine(seed_, 0), r.i),
            acre::axisHash(acre::combine(seed_, 4), r.j));
        const auto inSquare = [&](uint32_t hash) {
          return 0.5f + jitter * (static_cast<float>(hash >> 12) / 1048576.0f - 0.5f);
        };
        const float ox = inSquare(r.hash), oz = inSquare((r.hash ^ (r.hash >> 16)) * 0x7FEB352Du);
        const float dx = static_cast<float>(i) + ox - at[0];
        const float dz = static_cast<float>(j) + oz - at[1];
        r.x = dx;
        r.z = dz;
        r.distance = dx * dx + dz * dz;
        const auto siteCell = [&](int64_t node, float offset, uint64_t tag) {
          const auto whole = static_cast<Wide>(std::floor(static_cast<double>(offset) * 0x1p30));
          const Wide p = (static_cast<Wide>(node) << 48) + (whole << 18) -
                         static_cast<Wide>(acre::combine(seed_, 2 * tag + 1) >> 16);
          Wide c = p / step;
          if (p < 0 && c * step != p) --c;
          return static_cast<int64_t>(c);
        };
        r.site = {siteCell(r.i, ox, 0), siteCell(r.j, oz, 2)};
        all.push_back(r);
      }
    size_t best = 0;
    for (size_t k = 1; k < all.size(); ++k)
      if (all[k].distance < all[best].distance) best = k;
    return {std::move(all), best};
  }

  /// Squares to the nearest border, at most 1.
  float border(const int64_t cell[2], const int64_t q[2]) const {
    const auto [all, best] = sitesAbout(cell, q);
    const Region& own = all[best];
    float out = 1;
    for (size_t k = 0; k < all.size(); ++k) {
      if (k == best) continue;
      const float dx = all[k].x - own.x, dz = all[k].z - own.z;
      out = std::min(out, (all[k].distance - own.distance) / (2.0f * std::sqrt(dx * dx + dz * dz)));
    }
    return out;
  }

  /// Regions whose weight is not 0 at a place, the nearest first, the others by j, then i.
  std::vector<Region> regions(const int64_t cell[2], const int64_t q[2], float width) const {
    const auto [all, best] = sitesAbout(cell, q);
    std::vector<Region> out = {all[best]};
    out[0].part = 1;
    const float nearest = std::sqrt(all[best].distance);
    for (size_t k = 0; k < all.size() && width > 0; ++k) {
      if (k == best) continue;
      const float part = 1.0f - (std::sqrt(all[k].distance) - nearest) / width;
      if (part <= 0) continue;
      out.push_back(all[k]);
      out.back().part = part * part;
    }
    return out;
  }

  /// choose(altitude) averaged about a knot of altitude.
  template <class Choose>
  Three overAltitude(int knot, Choose&& chosen) const {
    Three sum;
    for (int k = -blurA_; k <= blurA_; ++k) {
      const int at = std::min(2 * (kAltitudes - 1), std::max(0, 2 * knot + k));
      sum = plus(sum, chosen(static_cast<float>(low_ + span_ * at / (2 * (kAltitudes - 1)))));
    }
    return over(sum, 2 * blurA_ + 1);
  }
  template <class AtKnot>
  Shape alongAltitude(float altitude, AtKnot&& atKnot) const {
    if (!layered_) return atKnot(0);
    const auto [k, w] = place(altitude, static_cast<float>(low_),
        static_cast<float>((kAltitudes - 1) / span_), kAltitudes - 1);
    return between(atKnot(k), atKnot(k + 1), w);
  }

  /// The blurred chart at one place.
  Shape onChart(float x, float y, float altitude) const {
    const int blur = static_cast<int>(std::floor(b_.border.chart * (kFine - 1) / 2 + 0.5));
    const auto scale = [](const acre::AxisScale& a) {
      return static_cast<float>((kKnots - 1) / (a.high - a.low));
    };
    const auto [i, u] = place(x, static_cast<float>(x_.low), scale(x_), kKnots - 1);
    const auto [j, v] = place(y, static_cast<float>(y_.low), scale(y_), kKnots - 1);
    const auto fine = [](const acre::AxisScale& axis, int k) {
      return partOf(axis, std::min(kFine - 1, std::max(0, k)), kFine - 1);
    };
    const auto knot = [&](int ki, int kj, int ka) {
      return rounded(overAltitude(ka, [&](float height) {
        Three rows;
        for (int b = -blur; b <= blur; ++b) {
          Three row;
          for (int a = -blur; a <= blur; ++a)
            row = plus(row, reliefOf(choose(fine(x_, 2 * ki + a), fine(y_, 2 * kj + b), height)));
          rows = plus(rows, over(row, 2 * blur + 1));
        }
        return over(rows, 2 * blur + 1);
      }));
    };
    return alongAltitude(altitude, [&, i = i, j = j, u = u, v = v](int k) {
      return between(between(knot(i, j, k), knot(i + 1, j, k), u),
          between(knot(i, j + 1, k), knot(i + 1, j + 1, k), u), v);
    });
  }

  /// The profile of one region.
  template <class Choose>
  Shape ofRegion(float altitude, Choose&& chosen) const {
    return alongAltitude(altitude, [&](int k) {
      return rounded(overAltitude(k, [&](float height) { return reliefOf(chosen(height)); }));
    });
  }

 private:
  const acre::Recipe& recipe_;
  const Biomes& b_;
  acre::AxisScale x_, y_;
  uint64_t seed_;
  std::vector<float> ends_;
  bool layered_ = false;
  double low_ = 0, span_ = 0;
  int blurA_ = 0;
};

void Evaluator::shifted(acre::Cell from, int64_t (&at)[2], int64_t (&q)[2]) {
  const Biomes& b = recipe_.biomes;
  at[0] = from.x;
  at[1] = from.z;
  q[0] = q[1] = 0;
  if (b.regions.warp.cells != 0)
    for (const int a : {0, 1}) {
      const std::string& id = a == 0 ? b.regions.warp.x : b.regions.warp.z;
      acre::Layer layer;
      layer.id = "shift";
      layer.source = b.regions.warp.noise;
      const acre::FieldRecipe own{
          a == 0 ? "regions/shift-x" : "regions/shift-z", "", {layer}, {}, {}};
      const float shift =
          (id.empty() ? fieldAt(own, {{from.x, 0, from.z}, {0, 0, 0}}) : field(id, from)) *
          static_cast<float>(b.regions.warp.cells);
      const float near = std::max(-16000.0f, std::min(16000.0f, shift));
      const auto fixed = static_cast<int64_t>(std::floor(near * 65536.0f + 0.5f));
      at[a] += fixed >> 16;
      q[a] = fixed & 65535;
    }
}

float Evaluator::borderOf(acre::Cell cell) {
  int64_t at[2], q[2];
  shifted(cell, at, q);
  return Chart(recipe_, seed_).border(at, q) * static_cast<float>(recipe_.biomes.regions.size);
}

Evaluator::LandValue Evaluator::unshaped(acre::Cell cell) {
  const Biomes& b = recipe_.biomes;
  LandValue out{base(cell), base(cell), "none"};
  if (!b.on) return out;
  const float altitude = out.base;
  const Chart chart(recipe_, seed_);
  const auto valueAt = [&](const acre::ChartAxis& axis, acre::Cell at) {
    return axis.field == acre::kHeightsId ? base(at) : field(axis.field, at);
  };
  const bool any = std::any_of(b.list.begin(), b.list.end(),
      [](const Biome& biome) { return biome.relief != acre::Relief{}; });
  const Biome* biome = nullptr;
  Shape shape{{1, 0, 0}};
  const auto placeOf = [&](acre::Cell from, int64_t(&at)[2], int64_t(&q)[2]) {
    shifted(from, at, q);
  };
  if (b.regions.on && b.regions.choice != acre::Regions::Choice::Cells) {
    int64_t at[2], q[2];
    placeOf(cell, at, q);
    const auto width = static_cast<float>(b.border.ground / b.regions.size);
    const auto near = chart.regions(at, q, any ? width : 0);
    const auto chooser = [&](const Region& r) {
      const bool climate = b.regions.choice == acre::Regions::Choice::Climate;
      const float x = climate ? valueAt(b.x, r.site) : 0, y = climate ? valueAt(b.y, r.site) : 0;
      return [&chart, climate, x, y, hash = r.hash](float height) {
        return climate ? chart.choose(x, y, height) : chart.drawn(hash, height);
      };
    };
    const auto regionOf = [&](acre::Cell c) {
      int64_t a[2], f[2];
      placeOf(c, a, f);
      return chart.regions(a, f, 0)[0];
    };
    Region named = near[0];
    if (b.regions.islets > 0 && b.regions.warp.cells <= b.regions.size / 2) {
      // The piece that the cell is of, as far as it fits into the box.
      std::map<acre::Cell, Region> labels;
      const auto label = [&](acre::Cell c) -> const Region& {
        const auto known = labels.find(c);
        return known != labels.end() ? known->second : labels.emplace(c, regionOf(c)).first->second;
      };
      const auto same = [](const Region& x, const Region& y) { return x.i == y.i && x.j == y.j; };
      std::vector<acre::Cell> piece = {cell};
      std::set<acre::Cell> seen = {cell};
      std::map<std::pair<int64_t, int64_t>, std::pair<int, Region>> rim;  // By (j, i).
      acre::Cell low = cell, high = cell;
      bool islet = true;
      for (size_t k = 0; k < piece.size() && islet; ++k) {
        const acre::Cell c = piece[k];
        low = {std::min(low.x, c.x), std::min(low.z, c.z)};
        high = {std::max(high.x, c.x), std::max(high.z, c.z)};
        const auto away = static_cast<float>(1.5 / b.regions.size);
        islet = high.x - low.x < b.regions.islets && high.z - low.z < b.regions.islets &&
                label(c).distance >= away * away;
        for (const acre::Cell next : {acre::Cell{c.x - 1, c.z}, acre::Cell{c.x + 1, c.z},
                 acre::Cell{c.x, c.z - 1}, acre::Cell{c.x, c.z + 1}}) {
          const Region& r = label(next);
          if (!same(r, label(c))) {
            auto& entry = rim[{r.j, r.i}];
            ++entry.first;
            entry.second = r;
          } else if (seen.insert(next).second) {
            piece.push_back(next);
          }
        }
      }
      int most = 0;
      for (const auto& [id, entry] : rim)
        if (islet && entry.first > most) {
          most = entry.first;
          named = entry.second;
        }
    }
    biome = chooser(named)(altitude);
    if (any) {
      shape = chart.ofRegion(altitude, chooser(near[0]));
      float weights = 1;
      for (size_t k = 1; k < near.size(); ++k) {
        const Shape other = chart.ofRegion(altitude, chooser(near[k]));
        for (int c = 0; c < 3; ++c) shape.v[c] += near[k].part * other.v[c];
        weights += near[k].part;
      }
      if (near.size() > 1)
        for (float& v : shape.v) v /= weights;
    }
  } else {
    const float x = valueAt(b.x, cell), y = valueAt(b.y, cell);
    biome = chart.choose(x, y, altitude);
    if (any) shape = chart.onChart(x, y, altitude);
  }
  if (biome) out.biome = biome->id;
  if (shape.v[0] == 1 && shape.v[1] == 0 && shape.v[2] == 0) return out;
  float rough = 0;
  if (std::any_of(b.list.begin(), b.list.end(), [](const Biome& x) { return x.relief.rough != 0; }))
    rough =
        noise(b.roughness, 2, acre::combine(acre::combine(seed_, 0x42696F6D6573u), 0x526F756768u),
            {}, {{cell.x, 0, cell.z}, {0, 0, 0}});
  const auto sea = static_cast<float>(recipe_.frame.seaLevel), coast = static_cast<float>(b.coast);
  const float r = out.base - sea, grown = std::abs(r) < coast ? std::abs(r) / coast : 1.0f;
  const float height = sea + (r * shape.v[0] + (shape.v[1] + shape.v[2] * rough) * grown);
  if (r >= 0)
    out.height = std::max(height, sea);
  else
    out.height = std::min(height, std::nextafter(sea, -std::numeric_limits<float>::infinity()));
  return out;
}

}  // namespace reference
