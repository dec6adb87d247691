#include "noise/tiles.h"

#include "base/hash.h"

namespace acre {

void plainTileClasses(
    const MaterialIndex* materials, int64_t count, const ClassTable& table, uint8_t* classes) {
  for (int64_t i = 0; i < count; ++i)
    classes[i] = materials[i] < table.count ? table.all[materials[i]] : uint8_t{0};
}

void plainTileInside(const uint8_t* classes, uint8_t level, int64_t count, uint8_t* inside) {
  for (int64_t i = 0; i < count; ++i) inside[i] = classes[i] >= level;
}

void plainTileNeighbours(const TileRows& rows, int64_t count, uint8_t* cases) {
  for (int64_t i = 0; i < count; ++i) {
    const auto bit = [&](const uint8_t* row, int64_t dx, int k) {
      return unsigned{row[i + dx]} << k;
    };
    const unsigned sides = bit(rows.north, 0, 0) | bit(rows.here, 1, 2) | bit(rows.south, 0, 4) |
                           bit(rows.here, -1, 6);
    const unsigned corners = bit(rows.north, 1, 1) | bit(rows.south, 1, 3) |
                             bit(rows.south, -1, 5) | bit(rows.north, -1, 7);
    // Each corner stands between the side before it and the one after.
    const unsigned mask = sides | (corners & sides << 1 & (sides >> 1 | sides << 7));
    const unsigned less = mask >> 7 & 1 ? kTileRanks.less[mask & 15] : 0;
    const unsigned rank = kTileRanks.high[mask >> 4 & 15] + kTileRanks.low[mask & 15] - less;
    cases[i] = rows.here[i] ? static_cast<uint8_t>(rank) : uint8_t{0xFF};
  }
}

void plainTileSides(const TileRows& rows, int64_t count, uint8_t* cases) {
  for (int64_t i = 0; i < count; ++i) {
    const unsigned mask = unsigned{rows.north[i]} | unsigned{rows.here[i + 1]} << 1 |
                          unsigned{rows.south[i]} << 2 | unsigned{rows.here[i - 1]} << 3;
    cases[i] = rows.here[i] ? static_cast<uint8_t>(mask) : uint8_t{0xFF};
  }
}

void plainTileCorners(const TileRows& rows, int64_t count, uint8_t* cases) {
  for (int64_t i = 0; i < count; ++i)
    cases[i] = static_cast<uint8_t>(unsigned{rows.here[i]} << 3 | unsigned{rows.here[i + 1]} << 2 |
                                    unsigned{rows.south[i + 1]} << 1 | unsigned{rows.south[i]});
}

void plainTileValues(const uint8_t* cases, int64_t count, bool firstIsNone, uint16_t* values) {
  for (int64_t i = 0; i < count; ++i)
    values[i] = firstIsNone && cases[i] == 0 ? uint16_t{0} : static_cast<uint8_t>(cases[i] + 1);
}

void plainTileVariants(const TileVariety& variety, const uint32_t* columns, uint32_t row,
    int64_t count, uint16_t* values) {
  for (int64_t i = 0; i < count; ++i) {
    if (values[i] == 0) continue;
    const uint32_t hash = nodeHash(columns[i], row);
    for (int k = 0; k < variety.count; ++k)
      if (hash >= variety.from[k]) values[i] = static_cast<uint16_t>(values[i] + variety.step);
  }
}

}  // namespace acre
