/// One system of passages, as TunnelStage lays it.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <vector>

namespace acre {

/// A point of a passage's centre line, in cells from the lower corner of the site's cell.
struct BorePoint {
  float x, y, z;
  float radius;  ///< Of the bore there, before the walls stray.
};

enum class PassageKind {
  Main,  ///< From the site.
  Arm,   ///< Leaves the main one.
  Own,   ///< Starts and ends on its own.
  Shaft  ///< From the site up to the open air.
};

/// "main passage", "arm", "own passage", "shaft".
const char* passageName(PassageKind kind);

struct Passage {
  PassageKind kind = PassageKind::Main;
  std::vector<BorePoint> points;  ///< At least two.
  std::vector<uint32_t> lattice;  ///< Lattice points that it runs along; not of shafts.
};

/// One system. Immutable once made.
struct TunnelSystem {
  int64_t squareX = 0, squareZ = 0;
  int64_t x = 0, y = 0, z = 0;  ///< Cell of the site.
  float surface = 0;            ///< Height of the column above it.
  std::vector<Passage> passages;
  bool mouth = false;
  int64_t floodedBelow = 0;           ///< Cells with y below it hold its water.
  int64_t low[3] = {}, high[3] = {};  ///< Cells x, y, z that bores may hold, both included.

  uint64_t bytes() const;
  /// "S12,-3": what its square is called.
  std::string name() const;
};

using TunnelHandle = std::shared_ptr<const TunnelSystem>;

}  // namespace acre
