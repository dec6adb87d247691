/// A body that flies or walks among blocks, and what it looks at.
#pragma once

#include <optional>
#include <vector>

#include "base/coords.h"
#include "view/loading.h"
#include "view/scene.h"

namespace acre {

/// A copy of the blocks around a place, small enough to ask at every frame.
struct BlockBox {
  static constexpr int32_t kSide = 64;
  int64_t x = 0, y = 0, z = 0;
  std::vector<MaterialIndex> blocks;  ///< x fastest, then z, then y; empty: nothing is known.
  std::shared_ptr<const World> world;

  /// Around an eye. Errors: as for World::sampleBlocks.
  static Result<BlockBox> around(
      std::shared_ptr<const World> world, const Eye& eye, const std::stop_token& stop = {});
  bool holds(int64_t bx, int64_t by, int64_t bz) const {
    return !blocks.empty() && bx >= x && by >= y && bz >= z && bx < x + kSide && by < y + kSide &&
           bz < z + kSide;
  }
  MaterialIndex at(int64_t bx, int64_t by, int64_t bz) const {
    return holds(bx, by, bz)
               ? blocks[static_cast<size_t>(((by - y) * kSide + (bz - z)) * kSide + bx - x)]
               : kOutside;
  }
  /// True while the eye is so far from the box's sides that a second of walking stays inside.
  bool centredOn(const Eye& eye) const;
};

/// What is asked of the body for one frame; directions are relative to where it looks.
struct WalkInput {
  double forward = 0;  ///< -1 ... 1
  double right = 0;
  double up = 0;  ///< Flying only.
  bool jump = false;
  bool fast = false;
};

/// A body 0.6 wide and 1.8 high. On foot it falls, jumps a little over one block and steps up one
/// by itself; flying it does not. It never enters what is solid; should it stand in it (the world
/// changed, or it was put there) it is lifted to the first place above with room for it.
class Walker {
 public:
  static constexpr double kHalfWidth = 0.3;
  static constexpr double kWalkSpeed = 5.5;  ///< Cells a second.
  static constexpr double kFastFactor = 4;

  Eye eye;
  bool flying = true;
  double flySpeed = 16;  ///< Cells a second.

  /// seconds: of the frame; longer ones count as 0.1. Nothing moves while the box does not hold the
  /// body.
  void step(double seconds, const WalkInput& input, const BlockBox& box);

  bool onGround() const { return onGround_; }
  /// Still falling, or otherwise moving without being asked.
  bool restless() const { return !flying && !onGround_; }
  /// Puts the feet on the ground of the eye's column, as near below as there is room. False when
  /// there is none.
  bool land(const World& world);
  /// Puts the feet there, as near to where they are as the column lets them.
  void stand(const Standing& standing);

 private:
  bool solidAt(double dx, double dy, double dz, const BlockBox& box) const;
  bool fits(double dx, double dy, double dz, const BlockBox& box) const;
  void moveAlong(int axis, double way, const BlockBox& box, bool& blocked);

  double falling_ = 0;  // Cells a second, downward.
  bool onGround_ = false;
};

/// The first block that is not open on a ray from the eye. direction: of any length.
struct ViewHit {
  int64_t x = 0, y = 0, z = 0;
  Side side = Side::Up;  ///< That the ray came in by.
  double distance = 0;
  MaterialIndex material = kUnassigned;
};
std::optional<ViewHit> castRay(const Eye& eye, const Vector3& direction, double reach,
    const BlockBox& box, const BlockClasses& classes);

/// The direction of the ray through a pixel's place.
Vector3 rayThrough(const Eye& eye, double x, double y, int32_t width, int32_t height);

}  // namespace acre
