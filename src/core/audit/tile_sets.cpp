#include "audit/tile_sets.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <map>
#include <set>

namespace acre {
namespace {

using Pixels = std::vector<uint32_t>;

bool isClear(uint32_t pixel) {
  return pixel >> 24 < 128;
}

bool differ(uint32_t a, uint32_t b) {
  if (isClear(a) || isClear(b)) return isClear(a) != isClear(b);
  for (const int shift : {16, 8, 0})
    if (std::abs(static_cast<int>(a >> shift & 0xFF) - static_cast<int>(b >> shift & 0xFF)) >
        kRimShade)
      return true;
  return false;
}

/// Cases that can lie side by side: west and east, or north and south.
std::set<std::array<int, 3>> pairsOf(const TileCases& cases) {
  std::set<std::array<int, 3>> out;
  // All that is about two cells: rows of four, three of them; the two lie in the middle. Of corners
  // two rows of three are enough, and the rest changes nothing.
  for (int about = 0; about < 1 << 12; ++about) {
    const auto in = [&](int i, int j) { return about >> (j * 4 + i) & 1; };
    for (const bool below : {false, true}) {
      const auto at = [&](int n, int dx, int dz) {
        return below ? in(1 + n + dz, 1 + dx) : in(1 + n + dx, 1 + dz);
      };
      const auto numberOf = [&](int n) {
        return int{cases.caseOf(
            maskAround(cases.method(), [&](int dx, int dz) { return at(n, dx, dz) != 0; }))};
      };
      // Rows of a pair one over the other lie across: only one column beside it is there.
      if (cases.method() != TileMethod::Corners && !(at(0, 0, 0) && at(1, 0, 0))) continue;
      out.insert({numberOf(0), numberOf(1), below});
    }
  }
  return out;
}

/// The colour of the ground of opaque tiles: what most of their middles are like, channel by
/// channel.
class GroundColour {
 public:
  explicit GroundColour(const TileArt& tiles) {
    const auto middle = static_cast<size_t>(tiles.size / 2 * tiles.size + tiles.size / 2);
    for (size_t c = 0; c < colour_.size(); ++c) {
      std::vector<int> values;
      for (const Pixels& tile : tiles.pictures)
        if (!tile.empty()) values.push_back(channel(tile[middle], c));
      if (values.empty()) continue;
      const auto half = values.begin() + static_cast<ptrdiff_t>(values.size() / 2);
      std::nth_element(values.begin(), half, values.end());
      colour_[c] = *half;
    }
  }
  bool isLike(uint32_t pixel) const {
    constexpr int kNear = 64;  // Of a channel: shades of the ground, and little more.
    for (size_t c = 0; c < colour_.size(); ++c)
      if (std::abs(channel(pixel, c) - colour_[c]) > kNear) return false;
    return true;
  }

 private:
  static int channel(uint32_t pixel, size_t c) { return static_cast<int>(pixel >> 8 * c & 0xFF); }
  std::array<int, 3> colour_{};
};

/// How much of each place that a mask looks at is ground.
class Rims {
 public:
  Rims(const TileArt& tiles) : size_(tiles.size) {  // NOLINT: used at once.
    // A few clear pixels may be spots.
    constexpr size_t kFew = 20;
    size_t clear = 0, all = 0;
    for (const Pixels& tile : tiles.pictures) {
      clear += static_cast<size_t>(std::count_if(tile.begin(), tile.end(), isClear));
      all += tile.size();
    }
    if (clear * kFew < all) colour_.emplace(tiles);
  }
  /// Something is clear, and the ground what is not.
  bool clear() const { return !colour_; }

  /// By bit of the method's mask.
  std::vector<double> of(const Pixels& tile, TileMethod method) const {
    const int quarter = std::max(1, size_ / 4), strip = std::max(1, size_ / 16);
    const int notch = std::max(1, size_ / 8), end = size_;
    const auto corner = [&](bool east, bool south, int side) {
      const int x = east ? end - side : 0, y = south ? end - side : 0;
      return share(tile, x, y, x + side, y + side);
    };
    const double north = share(tile, quarter, 0, end - quarter, strip);
    const double east = share(tile, end - strip, quarter, end, end - quarter);
    const double south = share(tile, quarter, end - strip, end - quarter, end);
    const double west = share(tile, 0, quarter, strip, end - quarter);
    switch (method) {
      case TileMethod::Corners:
        return {corner(false, true, quarter), corner(true, true, quarter),
            corner(true, false, quarter), corner(false, false, quarter)};
      case TileMethod::Neighbours:
        return {north, corner(true, false, notch), east, corner(true, true, notch), south,
            corner(false, true, notch), west, corner(false, false, notch)};
      case TileMethod::Sides:
        return {north, east, south, west};
      case TileMethod::Plain:
        break;
    }
    return {};
  }

 private:
  double share(const Pixels& tile, int x0, int y0, int x1, int y1) const {
    int ground = 0;
    for (int y = y0; y < y1; ++y)
      for (int x = x0; x < x1; ++x) {
        const uint32_t pixel = tile[static_cast<size_t>(y * size_ + x)];
        ground += colour_ ? colour_->isLike(pixel) : !isClear(pixel);
      }
    return static_cast<double>(ground) / ((x1 - x0) * (y1 - y0));
  }

  int size_;
  std::optional<GroundColour> colour_;
};

/// How far what was seen is from what a case would show: 0 and more.
double misfit(const TileCases& cases, int number, const std::vector<double>& seen) {
  const uint8_t mask = cases.maskOf(number);
  double sum = 0;
  for (size_t k = 0; k < seen.size(); ++k) {
    const bool corner = cases.method() == TileMethod::Neighbours && k % 2 == 1;
    // Corners without both sides may show anything.
    if (corner && !((mask >> (k - 1) & 1) && (mask >> ((k + 1) % 8) & 1))) continue;
    sum += std::abs(seen[k] - (mask >> k & 1));
  }
  return sum;
}

}  // namespace

std::vector<std::optional<TileGuess>> guessed(
    const TileArt& tiles, TileMethod method, int variants) {
  // Surely seen: no place is half one and half the other, and the next case is so much worse.
  constexpr double kClear = 0.35, kBetter = 0.25;
  const TileCases cases(method, TileTurns::None);
  const Rims rims(tiles);
  std::vector<std::optional<TileGuess>> out(tiles.pictures.size());
  struct Fit {
    double misfit;
    size_t tile;
    int number;
  };
  std::vector<Fit> fits;
  for (size_t n = 0; n < tiles.pictures.size(); ++n) {
    if (tiles.pictures[n].empty()) continue;
    const std::vector<double> seen = rims.of(tiles.pictures[n], method);
    double best = 1e9, next = 1e9;
    int number = 0;
    for (int k = 0; k < cases.count(); ++k) {
      const double bad = misfit(cases, k, seen);
      fits.push_back({bad, n, k});
      if (bad < best) {
        next = best;
        best = bad;
        number = k;
      } else {
        next = std::min(next, bad);
      }
    }
    // Of corners without anything clear either colour may be the ground.
    const bool clearly =
        best < kClear && next - best > kBetter && (rims.clear() || method != TileMethod::Corners);
    out[n] = TileGuess{number, clearly, number, clearly};
  }
  // The best fits first; each case for its variants, as long as there are enough of them.
  std::stable_sort(
      fits.begin(), fits.end(), [](const Fit& a, const Fit& b) { return a.misfit < b.misfit; });
  std::vector<bool> given(tiles.pictures.size());
  std::map<int, int> taken;
  for (const Fit& fit : fits) {
    if (given[fit.tile] || taken[fit.number] == variants) continue;
    given[fit.tile] = true;
    ++taken[fit.number];
    TileGuess& guess = *out[fit.tile];
    if (guess.number == fit.number) continue;
    guess.number = fit.number;
    guess.sure = false;
  }
  return out;
}

std::vector<int32_t> orderOf(const std::vector<std::optional<TileGuess>>& guesses,
    TileMethod method, TileTurns turns, int variants) {
  const TileCases cases(method, turns);
  std::vector<int32_t> out;
  std::map<int, int> met;
  for (const auto& guess : guesses) {
    out.push_back(-1);
    if (!guess || cases.orientationOf(guess->number) != 0) continue;
    const int drawing = cases.drawingOf(guess->number);
    if (const int variant = met[drawing]++; variant < variants)
      out.back() = drawing + cases.drawings() * variant;
  }
  return out;
}

TileSetReport reportOn(const TileSet& set, const TileArt& art) {
  TileSetReport out;
  const TileCases cases(set.method, set.turns);
  // By case, as it is laid; empty: it has none.
  TileArt laid;
  laid.size = art.size;
  for (int n = 0; n < cases.count(); ++n) {
    const int drawing = cases.drawingOf(n);
    const bool there = !art.pictures[static_cast<size_t>(drawing)].empty();
    laid.pictures.push_back(there ? art.laid(drawing, cases.orientationOf(n)) : Pixels());
  }
  // The case between four cells of none of which there is anything is never drawn.
  const int first = set.method == TileMethod::Corners ? 1 : 0;
  for (int d = 0; d < cases.drawings(); ++d) {
    const int number = cases.caseOfDrawing(d);
    if (number < first) continue;
    const int variants = static_cast<int>(weightsOf(set, number).size());
    for (int v = 0; v < variants; ++v) {
      const auto at = static_cast<size_t>(d + cases.drawings() * v);
      if (at < art.pictures.size() && !art.pictures[at].empty()) continue;
      out.missing.push_back(number);
      break;
    }
  }
  std::map<Pixels, int> met;
  for (int d = 0; d < cases.drawings(); ++d) {
    const Pixels& picture = art.pictures[static_cast<size_t>(d)];
    const int number = cases.caseOfDrawing(d);
    if (picture.empty() || number < first) continue;
    if (const auto [known, fresh] = met.emplace(picture, number); !fresh)
      out.doubles.emplace_back(known->second, number);
  }
  if (set.picture && !set.picture->order.empty())
    for (size_t n = 0; n < set.picture->order.size(); ++n)
      if (set.picture->order[n] < 0) out.idle.push_back(static_cast<int>(n));

  if (set.method != TileMethod::Plain) {
    const auto guesses = guessed(laid, set.method);
    for (int n = first; n < cases.count(); ++n) {
      const auto& guess = guesses[static_cast<size_t>(n)];
      if (guess && guess->clearly && guess->like != n) out.odd.emplace_back(n, guess->like);
    }
  }

  for (size_t n = static_cast<size_t>(cases.drawings()); n < art.pictures.size(); ++n) {
    const auto drawing = n % static_cast<size_t>(cases.drawings());
    const Pixels &plain = art.pictures[drawing], &variant = art.pictures[n];
    if (plain.empty() || variant.empty()) continue;  // Told as missing.
    int pixels = 0;
    for (int y = 0; y < art.size; ++y)
      for (int x = 0; x < art.size; ++x) {
        const auto at = static_cast<size_t>(y * art.size + x);
        const bool rim = x == 0 || y == 0 || x + 1 == art.size || y + 1 == art.size;
        pixels += rim && differ(plain[at], variant[at]);
      }
    if (pixels > 0)
      out.variants.push_back({cases.caseOfDrawing(static_cast<int>(drawing)),
          static_cast<int>(n) / cases.drawings(), pixels});
  }

  std::map<int, TileOffender> byCase;
  for (const auto& [one, other, below] : pairsOf(cases)) {
    const Pixels& a = laid.pictures[static_cast<size_t>(one)];
    const Pixels& b = laid.pictures[static_cast<size_t>(other)];
    const auto pixel = [&](const Pixels& of, int x, int y) {
      return of.empty() ? 0u : of[static_cast<size_t>(y * art.size + x)];
    };
    const bool gone = (a.empty() && one >= first) || (b.empty() && other >= first);
    if (gone) continue;  // Told as missing.
    TileRimFault fault{one, other, below != 0, 0, -1};
    for (int k = 0; k < art.size; ++k) {
      const uint32_t from = below ? pixel(a, k, art.size - 1) : pixel(a, art.size - 1, k);
      const uint32_t to = below ? pixel(b, k, 0) : pixel(b, 0, k);
      if (!differ(from, to)) continue;
      ++fault.pixels;
      if (fault.at < 0) fault.at = k;
    }
    for (const int number : std::set<int>{one, other}) {
      TileOffender& of = byCase[number];
      of.number = number;
      ++of.rims;
      if (fault.pixels == 0) continue;
      ++of.faults;
      if (fault.pixels > of.worst.pixels) of.worst = fault;
    }
    if (fault.pixels > 0) out.rims.push_back(fault);
  }
  std::stable_sort(out.rims.begin(), out.rims.end(),
      [](const TileRimFault& a, const TileRimFault& b) { return a.pixels > b.pixels; });
  for (const auto& [number, of] : byCase)
    if (of.faults > 0) out.offenders.push_back(of);
  std::stable_sort(
      out.offenders.begin(), out.offenders.end(), [](const TileOffender& a, const TileOffender& b) {
        return int64_t{a.faults} * b.rims > int64_t{b.faults} * a.rims;
      });
  return out;
}

std::vector<std::string> sentencesOf(const TileSetReport& report) {
  std::vector<std::string> out;
  const auto listed = [](const std::vector<int>& numbers) {
    std::string text;
    for (const int n : numbers) text += fmt::format("{}{}", text.empty() ? "" : ", ", n);
    return text;
  };
  if (!report.missing.empty())
    out.push_back(fmt::format(
        "no picture for case{} {}", report.missing.size() == 1 ? "" : "s", listed(report.missing)));
  for (const auto& [one, other] : report.doubles)
    out.push_back(fmt::format("cases {} and {} have the same picture", one, other));
  for (const auto& [number, like] : report.odd)
    out.push_back(fmt::format("the picture of case {} looks like case {}", number, like));
  for (const TileOffender& one : report.offenders) {
    const bool first = one.worst.number == one.number;
    out.push_back(
        fmt::format("case {}: {} of its {} rims do not meet; worst {} pixels beside case {} {} it, "
                    "from pixel {}",
            one.number, one.faults, one.rims, one.worst.pixels,
            first ? one.worst.other : one.worst.number,
            one.worst.below ? (first ? "below" : "above") : (first ? "east of" : "west of"),
            one.worst.at));
  }
  for (const TileVariantFault& one : report.variants)
    out.push_back(
        fmt::format("variant {} of case {} does not meet what its first picture does: {} "
                    "pixels of its rims differ",
            one.variant, one.number, one.pixels));
  if (!report.idle.empty())
    out.push_back(fmt::format(
        "no case uses place{} {}", report.idle.size() == 1 ? "" : "s", listed(report.idle)));
  return out;
}

}  // namespace acre
