/// What a walk view shows and from where; drawn alike by every back end.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "mesh/faces.h"

namespace acre {

inline constexpr double kDegree = 3.14159265358979323846 / 180;

/// The eye: a cell and a place in it, so that pictures are as steady at two thousand million as at
/// the origin.
struct Eye {
  int64_t cellX = 0, cellZ = 0;
  double x = 0.5, z = 0.5;  ///< Within the cell.
  double y = 0;             ///< Altitude.
  double yaw = 0;           ///< Degrees clockwise from north.
  double pitch = 0;         ///< Degrees upward, -90 ... 90.
  double field = 70;        ///< Degrees from the left edge of the picture to the right, 20 ... 120.

  /// Moves the eye; the place stays within its cell.
  void move(double dx, double dy, double dz);
};

struct Vector3 {
  double x = 0, y = 0, z = 0;
};

/// Right, up and forward of an eye, of length 1.
struct Directions {
  Vector3 right, up, forward;
};
Directions directionsOf(const Eye& eye);

/// The colours of things, and what is drawn besides them.
struct ViewStyle {
  /// 0xAARRGGBB by index of the material; 0 is "unassigned". Where AA is below 0xFF, faces have
  /// holes: so many of 255 parts of them are there.
  std::vector<uint32_t> inks;
  uint32_t sky = 0xFFEDF0EC;  ///< Overhead; towards the horizon it becomes `fog`.
  uint32_t fog = 0xFFFBF9F3;
  uint32_t ink = 0xFF1F2D3A;
  double distance = 256;  ///< Cells at which the fog has swallowed everything.
  double sea = 0;
  double contours = 5;     ///< Altitude between bands on walls; 0: none.
  double sun = 315;        ///< Degrees clockwise from north that the light comes from.
  bool lamp = false;       ///< Dark, but for a lamp that the eye carries.
  bool outlines = true;    ///< Ink where faces part.
  bool wireframe = false;  ///< The outline of every rectangle, nothing filled.
  int32_t chunk = 0;       ///< Lines on the ground every so many cells; 0: none.
};

/// Colours of a world's materials; unassigned ground is the ink of faults. clearLeaves: leaves of
/// trees have holes, as their meshes have to be made for it (FaceOptions).
ViewStyle styleFor(const World& world, bool clearLeaves = false);

/// One brick, and which of its walls are drawn: a bit by Side.
struct ScenePart {
  std::shared_ptr<const BlockMesh> mesh;
  uint8_t walls = 0;
  bool operator==(const ScenePart&) const = default;
};
using Scene = std::vector<ScenePart>;

/// Adds a chunk's bricks. held: whether another chunk of the same level is in the scene as well;
/// where none is, smooth bricks are closed by a wall.
void addToScene(const ChunkLayout& layout, ChunkPos pos,
    std::span<const std::shared_ptr<const BlockMesh>> meshes,
    const std::function<bool(ChunkPos)>& held, Scene& scene);

/// A picture, row by row from the top.
struct ViewPicture {
  int32_t width = 0, height = 0;
  std::vector<uint32_t> argb;
  uint64_t drawn = 0;  ///< Rectangles that faced the eye.
};

/// Light on each side, 0 ... 1.1, by Side.
struct SideLight {
  float of[kSides];
  /// On a surface that looks in any direction (of length 1): what the sides in it share.
  float on(float nx, float ny, float nz) const {
    return nx * nx * of[nx > 0 ? 1 : 0] + ny * ny * of[ny > 0 ? 3 : 2] +
           nz * nz * of[nz > 0 ? 5 : 4];
  }
};
SideLight sideLight(const ViewStyle& style);

/// Draws without a display, on all threads of the pool; the same pixels for any number of them.
/// width, height: 1 ... 8192.
void drawScene(const Scene& scene, const Eye& eye, const ViewStyle& style, ViewPicture& out);

}  // namespace acre
