/// Beds of rivers and lakes, tile by tile: what water/water_stage.cpp lays and
/// water/water_cells.cpp turns into cells.
#pragma once

#include <array>
#include <memory>
#include <stop_token>
#include <vector>

#include "water/water_stage.h"

namespace acre {

inline constexpr int32_t kNoLake = INT32_MIN;
inline constexpr int kFine = 16;  ///< Places on courses are in 1/16 cells.
/// Tiles of courses that may reach into a tile of beds, along one side.
inline constexpr int64_t kFarTiles = (Courses::kReach + BrickTile::kSide - 1) / BrickTile::kSide;
inline constexpr int32_t kTilesAcross = 2 * kFarTiles + 1;

struct WaterStage::Readers {
  const Drainage& drainage;
  const std::stop_token& stop;
  std::array<std::unique_ptr<Drainage::Reader>, kTilesAcross + 1> all = {};

  /// One for each row of tiles of courses, which are gone through side by side, and one more.
  Drainage::Reader& of(int32_t row) {
    auto& reader = all[static_cast<size_t>(row)];
    if (!reader) reader = std::make_unique<Drainage::Reader>(drainage, stop);
    return *reader;
  }
  Drainage::Reader& own() { return of(kTilesAcross); }
};

struct WaterStage::BedPiece {
  Brick brick;  ///< Or the region of a way through obstacles.
  bool course;
  uint32_t first, count;
  float reach;             ///< Cells from its line to the last that it touches.
  int32_t x0, z0, x1, z1;  ///< Cells from the tile's corner that it may touch.
};

struct WaterStage::BedTile {
  /// In 1/16 cells from the tile's corner; radius and level in cells.
  struct Point {
    float x, z, radius, level;
  };
  std::vector<Point> points;
  std::vector<BedPiece> pieces;
  /// Lakes of the bricks whose cells lie in the tile, in whole cells: from that before its first,
  /// whose odd rows reach in.
  static constexpr int kWide = static_cast<int>(BrickTile::kSide) + 1;
  std::array<int32_t, size_t{kWide} * BrickTile::kSide> lake, about;
  std::array<Brick, size_t{kWide} * BrickTile::kSide> pit;
  bool lakes = false;  ///< Any, in these or beside them.
  uint64_t bytes() const {
    return sizeof *this + points.size() * sizeof(Point) + pieces.size() * sizeof(BedPiece) + 128;
  }
};

}  // namespace acre
