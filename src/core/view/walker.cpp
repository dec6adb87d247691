#include "view/walker.h"

#include <algorithm>
#include <cmath>

#include "world/world.h"

namespace acre {
namespace {

constexpr double kGravity = 24;
constexpr double kJump = 8;
constexpr double kFastestFall = 50;
constexpr double kStepUp = 1.05;
constexpr double kSliver = 1e-4;  // Kept between the body and a wall.

int64_t cellOf(int64_t base, double v) {
  return base + static_cast<int64_t>(std::floor(v));
}

}  // namespace

Result<BlockBox> BlockBox::around(
    std::shared_ptr<const World> world, const Eye& eye, const std::stop_token& stop) {
  BlockBox box;
  box.x = eye.cellX - kSide / 2;
  box.z = eye.cellZ - kSide / 2;
  box.y = static_cast<int64_t>(std::floor(std::clamp(eye.y, -1e6, 1e6))) - kSide / 2;
  box.blocks.resize(size_t{kSide} * kSide * kSide);
  if (Status made = world->sampleBlocks(
          {box.x, box.y, box.z, 1, kSide, kSide, kSide}, box.blocks.data(), stop);
      !made)
    return made.error();
  box.world = std::move(world);
  return box;
}

bool BlockBox::centredOn(const Eye& eye) const {
  constexpr int64_t kRim = 20;
  const auto y0 = static_cast<int64_t>(std::floor(std::clamp(eye.y, -1e6, 1e6)));
  return holds(eye.cellX - kRim, y0 - kRim, eye.cellZ - kRim) &&
         holds(eye.cellX + kRim, y0 + kRim, eye.cellZ + kRim);
}

bool Walker::solidAt(double dx, double dy, double dz, const BlockBox& box) const {
  const int64_t x = cellOf(eye.cellX, eye.x + dx), z = cellOf(eye.cellZ, eye.z + dz);
  const auto y = static_cast<int64_t>(std::floor(eye.y + dy));
  const MaterialIndex m = box.at(x, y, z);
  if (m >= kOpen) return false;
  const Material* material = box.world->catalogue().material(m);
  return !material || material->state != MaterialState::Liquid;
}

bool Walker::fits(double dx, double dy, double dz, const BlockBox& box) const {
  constexpr double kFeet = -kEyeHeight, kHead = kBodyHeight - kEyeHeight;
  for (const double px : {-kHalfWidth, kHalfWidth})
    for (const double pz : {-kHalfWidth, kHalfWidth})
      for (const double py : {kFeet + kSliver, kFeet + 0.9, kHead - kSliver})
        if (solidAt(dx + px, dy + py, dz + pz, box)) return false;
  return true;
}

/// Moves as far as there is room, in pieces smaller than a block.
void Walker::moveAlong(int axis, double way, const BlockBox& box, bool& blocked) {
  blocked = false;
  double piece = 0.25;
  while (std::abs(way) > 1e-9) {
    const double step = std::clamp(way, -piece, piece);
    const double d[3] = {axis == 0 ? step : 0, axis == 1 ? step : 0, axis == 2 ? step : 0};
    if (fits(d[0], d[1], d[2], box)) {
      eye.move(d[0], d[1], d[2]);
      way -= step;
    } else if (piece > 0.005) {
      piece /= 2;
    } else {
      blocked = true;
      return;
    }
  }
}

void Walker::step(double seconds, const WalkInput& input, const BlockBox& box) {
  seconds = std::clamp(seconds, 0.0, 0.1);
  const auto level = static_cast<int64_t>(std::floor(std::clamp(eye.y, -1e6, 1e6)));
  if (!box.holds(eye.cellX - 2, level - 4, eye.cellZ - 2) ||
      !box.holds(eye.cellX + 2, level + 4, eye.cellZ + 2))
    return;
  const AxisBounds range = box.world->vertical();
  if (!flying && eye.y < static_cast<double>(range.min) - 2) {  // Out of the bottom.
    if (!land(*box.world)) flying = true;
    return;
  }
  if (!fits(0, 0, 0, box)) {  // Inside something solid: up to the first room.
    for (double up = 0.25; up < BlockBox::kSide / 2.0 - 6; up += 0.25)
      if (fits(0, up, 0, box)) {
        eye.move(0, up, 0);
        falling_ = 0;
        return;
      }
    const double top = static_cast<double>(range.min + range.extent);
    eye.y = std::min(eye.y + 20 * seconds, top + 8);  // Rising through thick rock, a box at a time.
    return;
  }
  const Directions to = directionsOf(eye);
  const double flat = std::sqrt(to.forward.x * to.forward.x + to.forward.z * to.forward.z);
  Vector3 ahead = to.forward;
  if (!flying || flat > 1e-6) {
    // On foot, and flying level, forward is along the ground.
    const double turn = eye.yaw * (3.14159265358979323846 / 180);
    ahead = flying ? to.forward : Vector3{std::sin(turn), 0, -std::cos(turn)};
  }
  Vector3 wish{ahead.x * input.forward + to.right.x * input.right,
      ahead.y * input.forward + (flying ? input.up : 0),
      ahead.z * input.forward + to.right.z * input.right};
  const double length = std::sqrt(wish.x * wish.x + wish.y * wish.y + wish.z * wish.z);
  const double speed = (flying ? flySpeed : kWalkSpeed) * (input.fast ? kFastFactor : 1) * seconds;
  if (length > 1e-9)
    wish = {wish.x / length * speed, wish.y / length * speed, wish.z / length * speed};

  bool blocked = false;
  const Eye before = eye;
  for (const int axis : {0, 2}) {
    const double way = axis == 0 ? wish.x : wish.z;
    moveAlong(axis, way, box, blocked);
    if (!blocked || flying || !onGround_) continue;
    // One block up, if there is room over it.
    const Eye here = eye;
    if (!fits(0, kStepUp, 0, box)) continue;
    eye.y += kStepUp;
    const double left =
        way - (axis == 0 ? static_cast<double>(here.cellX - before.cellX) + here.x - before.x
                         : static_cast<double>(here.cellZ - before.cellZ) + here.z - before.z);
    bool still = false;
    moveAlong(axis, left, box, still);
    const bool moved =
        eye.cellX != here.cellX || eye.cellZ != here.cellZ || eye.x != here.x || eye.z != here.z;
    if (!moved) {
      eye = here;
      continue;
    }
    bool down = false;
    moveAlong(1, -kStepUp, box, down);
  }
  if (flying) {
    moveAlong(1, wish.y, box, blocked);
    falling_ = 0;
    onGround_ = false;
    const double top = static_cast<double>(range.min + range.extent) + 512;
    eye.y = std::clamp(eye.y, static_cast<double>(range.min) - 64, top);
    return;
  }
  if (input.jump && onGround_) falling_ = -kJump;
  // Who stands, stands still: slivers that short frames let one sink by would add up.
  if (falling_ >= 0 && !fits(0, -2 * kSliver, 0, box)) {
    falling_ = 0;
    onGround_ = true;
    return;
  }
  falling_ = std::min(falling_ + kGravity * seconds, kFastestFall);
  bool met = false;
  moveAlong(1, -falling_ * seconds, box, met);
  onGround_ = met && falling_ >= 0;
  if (met) falling_ = 0;
  if (!onGround_) return;
  // Feet end on the block's top, whatever pieces the fall was cut into.
  const double ground = std::round(eye.y - kEyeHeight) + kEyeHeight - eye.y;
  if (std::abs(ground) < 0.02 && fits(0, ground, 0, box)) eye.y += ground;
}

bool Walker::land(const World& world) {
  const auto standing = standNear(world, {eye.cellX, eye.cellZ});
  if (!standing) return false;
  stand(*standing);
  return true;
}

void Walker::stand(const Standing& standing) {
  if (standing.cell.x != eye.cellX || standing.cell.z != eye.cellZ) {
    eye.cellX = standing.cell.x;
    eye.cellZ = standing.cell.z;
    eye.x = eye.z = 0.5;
  }
  eye.x = std::clamp(eye.x, kHalfWidth, 1 - kHalfWidth);
  eye.z = std::clamp(eye.z, kHalfWidth, 1 - kHalfWidth);
  eye.y = static_cast<double>(standing.y) + kEyeHeight;
  falling_ = 0;
  onGround_ = true;
  flying = false;
}

/// Source: J. Amanatides, A. Woo, "A fast voxel traversal algorithm for ray tracing", 1987.
std::optional<ViewHit> castRay(const Eye& eye, const Vector3& direction, double reach,
    const BlockBox& box, const BlockClasses& classes) {
  const double length =
      std::sqrt(direction.x * direction.x + direction.y * direction.y + direction.z * direction.z);
  if (!(length > 0)) return {};
  const double d[3] = {direction.x / length, direction.y / length, direction.z / length};
  const double from[3] = {eye.x, eye.y - std::floor(eye.y), eye.z};
  int64_t at[3] = {eye.cellX, static_cast<int64_t>(std::floor(eye.y)), eye.cellZ};
  double next[3], apart[3];
  for (int a = 0; a < 3; ++a) {
    apart[a] = d[a] != 0 ? 1 / std::abs(d[a]) : HUGE_VAL;
    next[a] = d[a] > 0 ? (1 - from[a]) * apart[a] : d[a] < 0 ? from[a] * apart[a] : HUGE_VAL;
  }
  for (double way = 0; way <= reach;) {
    const int a = next[0] <= next[1] && next[0] <= next[2] ? 0 : next[1] <= next[2] ? 1 : 2;
    way = next[a];
    next[a] += apart[a];
    at[a] += d[a] > 0 ? 1 : -1;
    if (way > reach || !box.holds(at[0], at[1], at[2])) return {};
    const MaterialIndex m = box.at(at[0], at[1], at[2]);
    if (classes.of(m) != BlockClass::Solid) continue;
    return ViewHit{at[0], at[1], at[2], static_cast<Side>(2 * a + (d[a] > 0 ? 0 : 1)), way, m};
  }
  return {};
}

Vector3 rayThrough(const Eye& eye, double x, double y, int32_t width, int32_t height) {
  const Directions to = directionsOf(eye);
  const double half = std::tan(eye.field * (3.14159265358979323846 / 360));
  const double right = (x / width * 2 - 1) * half;
  const double up = (height / 2.0 - y) / (width / 2.0) * half;
  return {to.forward.x + to.right.x * right + to.up.x * up,
      to.forward.y + to.right.y * right + to.up.y * up,
      to.forward.z + to.right.z * right + to.up.z * up};
}

}  // namespace acre
