#include "output/tile_sheet.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <string>

namespace acre {
namespace {

constexpr uint32_t kLabelInk = 0xFF1F2D3A, kLabelSheet = 0xFFFBF9F3, kLabelRule = 0xFFCFC7B2;
constexpr int32_t kOver = 9, kBeside = 2;  // Rows over a tile, and beside it.

/// Digits of 3 x 5 pixels, row by row from the top.
constexpr std::array<uint16_t, 10> kDigits = {0b111101101101111, 0b010110010010111,
    0b111001111100111, 0b111001111001111, 0b101101111001001, 0b111100111001111, 0b111100111101111,
    0b111001010010010, 0b111101111101111, 0b111101111001111};

class SheetPen {
 public:
  explicit SheetPen(RgbaPicture& picture) : picture_(picture) {}
  void dot(int32_t x, int32_t y, uint32_t colour) {
    if (x >= 0 && y >= 0 && x < picture_.width && y < picture_.height) picture_.at(x, y) = colour;
  }
  void number(int32_t x, int32_t y, int number) {
    for (const char c : std::to_string(number)) {
      const uint16_t of = kDigits[static_cast<size_t>(c - '0')];
      for (int k = 0; k < 15; ++k)
        if (of >> (14 - k) & 1) dot(x + k % 3, y + k / 3, kLabelInk);
      x += 4;
    }
  }
  void disc(int32_t x, int32_t y, int32_t radius, bool filled) {
    for (int32_t j = -radius; j <= radius; ++j)
      for (int32_t i = -radius; i <= radius; ++i) {
        const int32_t d = i * i + j * j;
        if (d > radius * radius) continue;
        const bool rim = d > (radius - 1) * (radius - 1);
        dot(x + i, y + j, filled || rim ? kLabelInk : kLabelSheet);
      }
  }

 private:
  RgbaPicture& picture_;
};

/// Where the dots of a mask stand, in sixths of a tile, by bit.
std::vector<std::array<int, 2>> dotsOf(TileMethod method) {
  switch (method) {
    case TileMethod::Corners:
      return {{1, 5}, {5, 5}, {5, 1}, {1, 1}};
    case TileMethod::Neighbours:
      return {{3, 1}, {5, 1}, {5, 3}, {5, 5}, {3, 5}, {1, 5}, {1, 3}, {1, 1}};
    case TileMethod::Sides:
      return {{3, 1}, {5, 3}, {3, 5}, {1, 3}};
    case TileMethod::Plain:
      break;
  }
  return {};
}

}  // namespace

RgbaPicture tileSheet(const TileSet& set, const TileArt& art, const TileSheetPlan& plan) {
  const TileCases cases(set.method, set.turns);
  const int count = plan.cases ? cases.count() : static_cast<int>(art.pictures.size());
  const int32_t columns = std::max(1, plan.columns);
  const int32_t rows = (count + columns - 1) / columns;
  const int32_t side = art.size * plan.zoom;
  const int32_t wide = side + (plan.margin ? 2 * kBeside : 0);
  const int32_t tall = side + (plan.margin ? 2 * kBeside + kOver : 0);
  RgbaPicture out{columns * wide, rows * tall, {}};
  out.pixels.assign(static_cast<size_t>(out.width) * static_cast<size_t>(out.height),
      plan.margin ? kLabelSheet : 0);
  SheetPen pen(out);
  for (int n = 0; n < count; ++n) {
    const int drawing = plan.cases ? cases.drawingOf(n) : n;
    const int number = plan.cases ? n : cases.caseOfDrawing(n % cases.drawings());
    int32_t x = n % columns * wide, y = n / columns * tall;
    if (plan.margin) {
      pen.number(x + kBeside, y + 2, number);
      x += kBeside;
      y += kBeside + kOver;
      for (int32_t k = -1; k <= side; ++k) {  // The tile's own frame, outside of it.
        for (const auto& [i, j] : {std::pair(k, -1), {k, side}, {-1, k}, {side, k}})
          pen.dot(x + i, y + j, kLabelRule);
      }
    }
    if (static_cast<size_t>(drawing) >= art.pictures.size() ||
        art.pictures[static_cast<size_t>(drawing)].empty())
      continue;
    const std::vector<uint32_t> pixels = art.laid(drawing, plan.cases ? cases.orientationOf(n) : 0);
    for (int32_t j = 0; j < side; ++j)
      for (int32_t i = 0; i < side; ++i) {
        const uint32_t pixel =
            pixels[static_cast<size_t>(j / plan.zoom * art.size + i / plan.zoom)];
        // What is clear stays so where the picture is there to be painted on.
        out.at(x + i, y + j) = plan.margin ? laidOver(kLabelSheet, pixel) : pixel;
      }
    if (!plan.dots) continue;
    const int32_t radius = std::max(1, side / 16);
    const auto dots = dotsOf(set.method);
    for (size_t k = 0; k < dots.size(); ++k)
      pen.disc(x + dots[k][0] * side / 6, y + dots[k][1] * side / 6, radius,
          cases.maskOf(number) >> k & 1);
  }
  return out;
}

}  // namespace acre
