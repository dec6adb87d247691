// Vector forms of the cases of tiles (noise/tiles.cpp), byte by byte. Included once per instruction
// set, by noise/kernel_table-inl.h alone.
#if defined(ACRE_NOISE_TILES_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef ACRE_NOISE_TILES_INL_H_
#undef ACRE_NOISE_TILES_INL_H_
#else
#define ACRE_NOISE_TILES_INL_H_
#endif

#include "noise/lanes-inl.h"
#include "noise/tiles.h"

HWY_BEFORE_NAMESPACE();
namespace acre {
namespace HWY_NAMESPACE {

using DB = hn::ScalableTag<uint8_t>;
using VB = hn::Vec<DB>;

/// A byte's share of a table of 16, for bytes below 16.
HWY_INLINE VB Of16(const uint8_t* table, VB at) {
  return hn::TableLookupBytes(hn::LoadDup128(DB(), table), at);
}

void TileClasses(
    const MaterialIndex* materials, int64_t count, const ClassTable& table, uint8_t* classes) {
  const hn::Rebind<int16_t, hn::Half<DB>> di;  // As many as half the bytes.
  const hn::Half<DB> half;
  const DB d;
  const auto wide = static_cast<int64_t>(hn::Lanes(di)), lanes = static_cast<int64_t>(hn::Lanes(d));
  int64_t i = 0;
  if (table.narrow)
    for (; i + lanes <= count; i += lanes) {
      // What is no material is negative here, and becomes 0.
      const auto* from = reinterpret_cast<const int16_t*>(materials + i);
      const VB m = hn::Combine(d, hn::DemoteTo(half, hn::LoadU(di, from + wide)),
          hn::DemoteTo(half, hn::LoadU(di, from)));
      const VB low = hn::And(m, hn::Set(d, 15)), high = hn::And(m, hn::Set(d, 0xF0));
      VB out = Of16(table.of, low);
      for (int part = 1; part * 16 < table.count; ++part)
        out = hn::IfThenElse(hn::Eq(high, hn::Set(d, static_cast<uint8_t>(part * 16))),
            Of16(table.of + part * 16, low), out);
      hn::StoreU(out, d, classes + i);
    }
  plainTileClasses(materials + i, count - i, table, classes + i);
}

void TileInside(const uint8_t* classes, uint8_t level, int64_t count, uint8_t* inside) {
  const DB d;
  const auto lanes = static_cast<int64_t>(hn::Lanes(d));
  const VB below = hn::Set(d, static_cast<uint8_t>(level - 1)), one = hn::Set(d, 1);
  int64_t i = 0;
  for (; i + lanes <= count; i += lanes)
    hn::StoreU(hn::Min(hn::SaturatedSub(hn::LoadU(d, classes + i), below), one), d, inside + i);
  plainTileInside(classes + i, level, count - i, inside + i);
}

/// a + 2 b + 4 c + 8 d, of bytes that are 0 or 1.
HWY_INLINE VB FourBits(VB a, VB b, VB c, VB d) {
  const auto twice = [](VB v) HWY_ATTR { return hn::Add(v, v); };
  return hn::Add(twice(hn::Add(twice(hn::Add(twice(d), c)), b)), a);
}
/// What is told of a cell where it is inside, else 0xFF.
HWY_INLINE VB WhereInside(VB inside, VB told) {
  return hn::Or(told, hn::Sub(inside, hn::Set(DB(), 1)));
}

void TileNeighbours(const TileRows& rows, int64_t count, uint8_t* cases) {
  const DB d;
  const auto lanes = static_cast<int64_t>(hn::Lanes(d));
  const auto at = [d](const uint8_t* row) HWY_ATTR { return hn::LoadU(d, row); };
  const VB high = hn::LoadDup128(d, kTileRanks.high), low = hn::LoadDup128(d, kTileRanks.low);
  const VB less = hn::LoadDup128(d, kTileRanks.less), zero = hn::Zero(d);
  int64_t i = 0;
  for (; i + lanes <= count; i += lanes) {
    const VB north = at(rows.north + i), south = at(rows.south + i);
    const VB east = at(rows.here + i + 1), west = at(rows.here + i - 1);
    const VB northEast = hn::And(hn::And(north, east), at(rows.north + i + 1));
    const VB southEast = hn::And(hn::And(south, east), at(rows.south + i + 1));
    const VB southWest = hn::And(hn::And(south, west), at(rows.south + i - 1));
    const VB northWest = hn::And(hn::And(north, west), at(rows.north + i - 1));
    const VB lower = FourBits(north, northEast, east, southEast);
    const VB upper = FourBits(south, southWest, west, northWest);
    const VB rank =
        hn::Sub(hn::Add(hn::TableLookupBytes(high, upper), hn::TableLookupBytes(low, lower)),
            hn::And(hn::TableLookupBytes(less, lower), hn::Sub(zero, northWest)));
    hn::StoreU(WhereInside(at(rows.here + i), rank), d, cases + i);
  }
  plainTileNeighbours(rows.from(i), count - i, cases + i);
}

void TileSides(const TileRows& rows, int64_t count, uint8_t* cases) {
  const DB d;
  const auto lanes = static_cast<int64_t>(hn::Lanes(d));
  int64_t i = 0;
  for (; i + lanes <= count; i += lanes) {
    const VB mask = FourBits(hn::LoadU(d, rows.north + i), hn::LoadU(d, rows.here + i + 1),
        hn::LoadU(d, rows.south + i), hn::LoadU(d, rows.here + i - 1));
    hn::StoreU(WhereInside(hn::LoadU(d, rows.here + i), mask), d, cases + i);
  }
  plainTileSides(rows.from(i), count - i, cases + i);
}

void TileCorners(const TileRows& rows, int64_t count, uint8_t* cases) {
  const DB d;
  const auto lanes = static_cast<int64_t>(hn::Lanes(d));
  int64_t i = 0;
  for (; i + lanes <= count; i += lanes)
    hn::StoreU(FourBits(hn::LoadU(d, rows.south + i), hn::LoadU(d, rows.south + i + 1),
                   hn::LoadU(d, rows.here + i + 1), hn::LoadU(d, rows.here + i)),
        d, cases + i);
  plainTileCorners(rows.from(i), count - i, cases + i);
}

void TileValues(const uint8_t* cases, int64_t count, bool firstIsNone, uint16_t* values) {
  const hn::ScalableTag<uint16_t> d;
  const hn::Rebind<uint8_t, decltype(d)> bytes;
  const auto lanes = static_cast<int64_t>(hn::Lanes(d));
  const auto zero = hn::Zero(bytes), none = firstIsNone ? zero : hn::Set(bytes, 0xFF);
  int64_t i = 0;
  for (; i + lanes <= count; i += lanes) {
    const auto c = hn::LoadU(bytes, cases + i);  // What stands for none wraps to it.
    const auto next = hn::IfThenElse(hn::Eq(c, none), zero, hn::Add(c, hn::Set(bytes, 1)));
    hn::StoreU(hn::PromoteTo(d, next), d, values + i);
  }
  plainTileValues(cases + i, count - i, firstIsNone, values + i);
}

void TileVariants(const TileVariety& variety, const uint32_t* columns, uint32_t row, int64_t count,
    uint16_t* values) {
  const DU d;
  const hn::Rebind<uint16_t, DU> shorts;
  const auto lanes = static_cast<int64_t>(hn::Lanes(d));
  int64_t i = 0;
  for (; i + lanes <= count; i += lanes) {
    const VU hash = NodeHash(hn::LoadU(d, columns + i), hn::Set(d, row));
    VU steps = hn::Zero(d);
    for (int k = 0; k < variety.count; ++k) {
      const auto reached = hn::Eq(hn::Max(hash, hn::Set(d, variety.from[k])), hash);
      steps = hn::Sub(steps, hn::VecFromMask(d, reached));  // What holds is -1.
    }
    const auto more =
        hn::DemoteTo(shorts, hn::BitCast(DI(), hn::Mul(steps, hn::Set(d, uint32_t{variety.step}))));
    const auto old = hn::LoadU(shorts, values + i);
    hn::StoreU(
        hn::IfThenZeroElse(hn::Eq(old, hn::Zero(shorts)), hn::Add(old, more)), shorts, values + i);
  }
  plainTileVariants(variety, columns + i, row, count - i, values + i);
}

}  // namespace HWY_NAMESPACE
}  // namespace acre
HWY_AFTER_NAMESPACE();

#endif  // include guard
