#include "climate/chart.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>

namespace acre {
namespace {

constexpr float kEndless = std::numeric_limits<float>::infinity();
constexpr int kBatch = 256;

float lowOf(const Span& span) {
  return span.low ? static_cast<float>(*span.low) : -kEndless;
}
float highOf(const Span& span) {
  return span.high ? static_cast<float>(*span.high) : kEndless;
}

/// Number of edges that are no higher than v.
size_t placeOf(const std::vector<float>& edges, float v) {
  return static_cast<size_t>(std::upper_bound(edges.begin(), edges.end(), v) - edges.begin());
}

void placesOf(const Kernels& kernels, const std::vector<float>& edges, const float* v, int count,
    uint16_t* places) {
  constexpr size_t kMostCompared = 96;  // More are found sooner by bisection.
  if (edges.size() <= kMostCompared)
    return kernels.bands(v, count, edges.data(), static_cast<int>(edges.size()), places);
  for (int i = 0; i < count; ++i) places[i] = static_cast<uint16_t>(placeOf(edges, v[i]));
}

void sortEdges(std::vector<float>& edges) {
  std::erase_if(edges, [](float v) { return v == kEndless || v == -kEndless; });
  std::sort(edges.begin(), edges.end());
  edges.erase(std::unique(edges.begin(), edges.end()), edges.end());
}

/// Share of [low, high) between two edges.
double shareBetween(float low, float high, const AxisScale& axis) {
  const double from = std::max(axis.low, static_cast<double>(low));
  const double to = std::min(axis.high, static_cast<double>(high));
  return std::max(0.0, to - from) / (axis.high - axis.low);
}

}  // namespace

float partEdge(const AxisScale& axis, int k, int n) {
  return static_cast<float>(axis.low + (axis.high - axis.low) * k / n);
}

BiomeIndex biomeIndex(const Biomes& biomes, const std::string& id) {
  const auto found = std::find_if(
      biomes.list.begin(), biomes.list.end(), [&](const Biome& b) { return b.id == id; });
  return found == biomes.list.end() ? kNoBiome
                                    : static_cast<BiomeIndex>(found - biomes.list.begin() + 1);
}

Chart::Chart(const ChartInputs& inputs) : x_(inputs.x), y_(inputs.y), ends_(inputs.sliceEnds) {
  for (size_t i = 1; i < ends_.size(); ++i) ends_[i] = std::max(ends_[i], ends_[i - 1]);
  const Biomes& biomes = inputs.biomes;
  fixed_.assign(std::max<size_t>(1, biomes.slices.size()), kNoBiome);
  for (size_t i = 0; i < biomes.slices.size(); ++i)
    fixed_[i] = biomeIndex(biomes, biomes.slices[i].biome);
  if (biomes.rules == ChartRules::Points)
    placePoints(biomes, inputs.seaLevel);
  else
    for (size_t i = 0; i < fixed_.size(); ++i) cutAreas(biomes, i);
  joinSlices();
}

void Chart::joinSlices() {
  constexpr size_t kMostCells = size_t{1} << 16;
  for (const Table& table : tables_) {
    allX_.insert(allX_.end(), table.x.begin(), table.x.end());
    allY_.insert(allY_.end(), table.y.begin(), table.y.end());
  }
  sortEdges(allX_);
  sortEdges(allY_);
  const size_t columns = allX_.size() + 1, rows = allY_.size() + 1;
  if (tables_.empty() || columns * rows * tables_.size() > kMostCells) return;
  for (const Table& table : tables_)
    for (size_t j = 0; j < rows; ++j)
      for (size_t i = 0; i < columns; ++i) {
        const size_t row = j == 0 ? 0 : placeOf(table.y, allY_[j - 1]);
        const size_t column = i == 0 ? 0 : placeOf(table.x, allX_[i - 1]);
        all_.push_back(table.biomes[table.at(column, row)]);
      }
}

void Chart::cutAreas(const Biomes& biomes, size_t slice) {
  Table& table = tables_.emplace_back();
  std::vector<const Area*> rules;
  for (const Area& area : biomes.areas) {
    const bool here = area.slices.empty() ||
                      (!biomes.slices.empty() && std::find(area.slices.begin(), area.slices.end(),
                                                     biomes.slices[slice].id) != area.slices.end());
    if (!here || fixed_[slice] != kNoBiome) continue;
    rules.push_back(&area);
    if (area.painting) {
      for (int k = 1; k < area.painting->columns; ++k)
        table.x.push_back(partEdge(x_, k, area.painting->columns));
      for (int k = 1; k < area.painting->rows; ++k)
        table.y.push_back(partEdge(y_, k, area.painting->rows));
    } else {
      table.x.insert(table.x.end(), {lowOf(area.x), highOf(area.x)});
      table.y.insert(table.y.end(), {lowOf(area.y), highOf(area.y)});
    }
  }
  sortEdges(table.x);
  sortEdges(table.y);
  const size_t count = (table.x.size() + 1) * (table.y.size() + 1);
  table.rules.assign(count, -1);
  table.biomes.assign(count, fixed_[slice]);
  // From the last rule to the first, each over those that it goes before.
  const auto lay = [&](const Area& area, BiomeIndex biome, float x0, float x1, float y0, float y1) {
    const auto rule = static_cast<int16_t>(&area - biomes.areas.data());
    const auto first = [](const std::vector<float>& edges, float v) {
      return v == -kEndless ? 0 : placeOf(edges, v);
    };
    const auto end = [](const std::vector<float>& edges, float v) {
      return v == kEndless ? edges.size() + 1 : placeOf(edges, v);
    };
    for (size_t j = first(table.y, y0); j < end(table.y, y1); ++j)
      for (size_t i = first(table.x, x0); i < end(table.x, x1); ++i) {
        table.rules[table.at(i, j)] = rule;
        table.biomes[table.at(i, j)] = biome;
      }
  };
  for (size_t k = rules.size(); k-- > 0;) {
    const Area& area = *rules[k];
    if (!area.painting) {
      lay(area, biomeIndex(biomes, area.biome), lowOf(area.x), highOf(area.x), lowOf(area.y),
          highOf(area.y));
      continue;
    }
    const Painting& p = *area.painting;
    const auto low = [](const AxisScale& axis, int k, int n) {
      return k == 0 ? -kEndless : partEdge(axis, k, n);
    };
    const auto high = [](const AxisScale& axis, int k, int n) {
      return k + 1 == n ? kEndless : partEdge(axis, k + 1, n);
    };
    for (int j = 0; j < p.rows; ++j)
      for (int i = 0; i < p.columns; ++i) {
        const uint16_t painted = p.cells[static_cast<size_t>(j) * static_cast<size_t>(p.columns) +
                                         static_cast<size_t>(i)];
        if (painted != 0)
          lay(area, biomeIndex(biomes, p.biomes[painted - size_t{1}]), low(x_, i, p.columns),
              high(x_, i, p.columns), low(y_, j, p.rows), high(y_, j, p.rows));
      }
  }
}

void Chart::placePoints(const Biomes& biomes, double seaLevel) {
  Points& p = points_;
  for (size_t i = 0; i < biomes.list.size(); ++i) {
    const auto& ideal = biomes.list[i].ideal;
    if (!ideal) continue;
    p.px.push_back(static_cast<float>(ideal->x));
    p.py.push_back(static_cast<float>(ideal->y));
    p.pa.push_back(static_cast<float>(ideal->altitude ? seaLevel + *ideal->altitude : 0));
    p.sa.push_back(static_cast<float>(ideal->altitude ? 1 / biomes.altitudeReach : 0));
    p.shares.push_back(static_cast<float>(1 / (ideal->weight * ideal->weight)));
    p.biomes.push_back(static_cast<BiomeIndex>(i + 1));
  }
  p.count = static_cast<int>(p.biomes.size());
  p.scaleX = static_cast<float>(1 / (x_.high - x_.low));
  p.scaleY = static_cast<float>(1 / (y_.high - y_.low));
  p.x = p.px.data();
  p.y = p.py.data();
  p.altitude = p.pa.data();
  p.altitudeScale = p.sa.data();
  p.share = p.shares.data();
}

Chart::Decision Chart::decide(float x, float y, float altitude) const {
  Decision out;
  out.slice = static_cast<int>(placeOf(ends_, altitude));
  const auto slice = static_cast<size_t>(out.slice);
  out.biome = fixed_[slice];
  if (out.biome != kNoBiome) return out;
  if (!tables_.empty()) {
    const Table& table = tables_[slice];
    const size_t at = table.at(placeOf(table.x, x), placeOf(table.y, y));
    out.area = table.rules[at];
    out.biome = table.biomes[at];
  } else if (points_.count > 0) {
    uint16_t best = 0;
    plainKernels().nearestIdeal(points_, 1, &x, &y, &altitude, &best);
    out.biome = points_.biomes[best];
  }
  return out;
}

void Chart::slicesOf(
    const Kernels& kernels, int count, const float* altitude, uint16_t* slices) const {
  placesOf(kernels, ends_, altitude, count, slices);
}

void Chart::lookUp(const Kernels& kernels, int count, const float* x, const float* y,
    const float* altitude, BiomeIndex* biomes) const {
  uint16_t slice[kBatch], column[kBatch], row[kBatch];
  for (int from = 0; from < count; from += kBatch) {
    const int n = std::min(kBatch, count - from);
    BiomeIndex* out = biomes + from;
    placesOf(kernels, ends_, altitude + from, n, slice);
    if (points_.count > 0) {
      kernels.nearestIdeal(points_, n, x + from, y + from, altitude + from, out);
      for (int i = 0; i < n; ++i) {
        const BiomeIndex fixed = fixed_[slice[i]];
        out[i] = fixed != kNoBiome ? fixed : points_.biomes[out[i]];
      }
      continue;
    }
    if (tables_.empty()) {
      for (int i = 0; i < n; ++i) out[i] = fixed_[slice[i]];
      continue;
    }
    if (!all_.empty()) {
      placesOf(kernels, allX_, x + from, n, column);
      placesOf(kernels, allY_, y + from, n, row);
      const auto columns = static_cast<uint32_t>(allX_.size() + 1);
      const auto rows = static_cast<uint32_t>(allY_.size() + 1);
      for (int i = 0; i < n; ++i) out[i] = all_[(slice[i] * rows + row[i]) * columns + column[i]];
      continue;
    }
    // Most batches lie in one slice or two: each in turn, for all that are in it.
    for (int done = 0; done < n;) {
      const uint16_t here = slice[done];
      int end = done + 1;
      while (end < n && slice[end] == here) ++end;
      const Table& table = tables_[here];
      if (table.biomes.size() == 1) {
        std::fill(out + done, out + end, table.biomes[0]);
      } else {
        placesOf(kernels, table.x, x + from + done, end - done, column);
        placesOf(kernels, table.y, y + from + done, end - done, row);
        for (int i = done; i < end; ++i)
          out[i] = table.biomes[table.at(column[i - done], row[i - done])];
      }
      done = end;
    }
  }
}

std::vector<Chart::Change> Chart::changes(float x, float y, float altitude) const {
  const Decision here = decide(x, y, altitude);
  std::vector<Change> out;
  const auto biomeAt = [&](Change::Along along, float v) {
    return along == Change::Along::X   ? decide(v, y, altitude).biome
           : along == Change::Along::Y ? decide(x, v, altitude).biome
                                       : decide(x, y, v).biome;
  };
  /// The first of the edges, in the order met from the value, beyond which there is another biome.
  const auto walk = [&](Change::Along along, float from, const std::vector<float>& edges, bool up) {
    const size_t place = placeOf(edges, from);
    for (size_t k = 0; k < (up ? edges.size() - place : place); ++k) {
      const float edge = up ? edges[place + k] : edges[place - 1 - k];
      const float beyond = up ? edge : std::nextafter(edge, -kEndless);
      const BiomeIndex to = biomeAt(along, beyond);
      if (to == here.biome) continue;
      out.push_back({along, up, edge, to});
      return;
    }
  };
  const auto both = [&](Change::Along along, float from, const std::vector<float>& edges) {
    walk(along, from, edges, true);
    walk(along, from, edges, false);
  };
  if (fixedBiome(here.slice) == kNoBiome) {
    if (!tables_.empty()) {
      const Table& table = tables_[static_cast<size_t>(here.slice)];
      both(Change::Along::X, x, table.x);
      both(Change::Along::Y, y, table.y);
    } else if (points_.count > 1) {
      constexpr int kParts = 1024;
      std::vector<float> edges;
      for (const auto& [along, from, axis] :
          {std::tuple(Change::Along::X, x, &x_), std::tuple(Change::Along::Y, y, &y_)}) {
        edges.clear();
        for (int k = 0; k <= kParts; ++k) edges.push_back(partEdge(*axis, k, kParts));
        both(along, from, edges);
      }
    }
  }
  const auto apart = [&](const Change& c) {
    const AxisScale& axis = c.along == Change::Along::X ? x_ : y_;
    const float from = c.along == Change::Along::X ? x : y;
    return std::abs(static_cast<double>(c.at) - static_cast<double>(from)) / (axis.high - axis.low);
  };
  std::stable_sort(out.begin(), out.end(),
      [&](const Change& a, const Change& b) { return apart(a) < apart(b); });
  both(Change::Along::Altitude, altitude, ends_);
  return out;
}

bool Chart::hidden(int area) const {
  return std::none_of(tables_.begin(), tables_.end(), [&](const Table& table) {
    return std::find(table.rules.begin(), table.rules.end(), area) != table.rules.end();
  });
}

double Chart::uncovered(int slice) const {
  if (fixedBiome(slice) != kNoBiome) return 0;
  if (tables_.empty()) return points_.count > 0 ? 0 : 1;
  const Table& table = tables_[static_cast<size_t>(slice)];
  double share = 0;
  for (size_t j = 0; j <= table.y.size(); ++j)
    for (size_t i = 0; i <= table.x.size(); ++i) {
      if (table.biomes[table.at(i, j)] != kNoBiome) continue;
      const auto low = [](const std::vector<float>& e, size_t k) {
        return k == 0 ? -kEndless : e[k - 1];
      };
      const auto high = [](const std::vector<float>& e, size_t k) {
        return k == e.size() ? kEndless : e[k];
      };
      share += shareBetween(low(table.x, i), high(table.x, i), x_) *
               shareBetween(low(table.y, j), high(table.y, j), y_);
    }
  return share;
}

}  // namespace acre
