/// Lines of the map as text: contours, and the middles of rivers; and objects as points.
#pragma once

#include <stop_token>
#include <string>
#include <vector>

#include "output/contours.h"
#include "output/png.h"
#include "water/bricks.h"
#include "world/plan.h"

namespace acre {

/// A place in the middle of a river.
struct RiverPlace {
  double x = 0, z = 0;  ///< Cells from the corner of the area's first cell; that cell reaches to 1.
  double level = 0;     ///< Of the surface, in cells.
  double width = 0;     ///< In cells.
};

/// A river inside an area, or a part of one, downstream.
struct RiverPath {
  Brick brick;  ///< Whose node its first place belongs to.
  std::vector<RiverPlace> places;
};

/// Longest side of an area whose rivers are drawn, in cells.
inline constexpr int64_t kLongestRiverSide = 40'000;

/// The middles of all rivers inside an area of at most kLongestRiverSide a side, and inside the
/// world, by the brick they begin in; then those of the ways through obstacles. Where rivers meet
/// the wider goes on, of equals that of the lower brick. Through lakes they run from where one
/// enters, and from where one leaves, to the deepest place. Cancelled when stopped. REQUIRES: a
/// world with the stage Water.
Result<std::vector<RiverPath>> riverPaths(
    const World& world, const Rect& area, const std::stop_token& stop = {});

/// An object as a point of a sheet.
struct ObjectPoint {
  std::string id, kind, what, name;  ///< id: sixteen hexadecimal digits.
  Cell cell;
  double height = 0;  ///< Of the ground as it was made; of blocks PlacedObject::y.
  int turn = 0;
  Colour ink;
  double radius = 1;  ///< Of its sign, in cells.
};
std::vector<ObjectPoint> objectPoints(const World& world, const std::vector<PlacedObject>& objects);

/// Lines over a grid of samples, and what the file says of its origin.
struct LineSheet {
  SampleGrid grid;
  double interval = 0;  ///< Of the contours.
  std::vector<ContourLine> contours;
  std::vector<RiverPath> rivers;
  std::vector<ObjectPoint> objects;
  TextPairs texts;
};

/// Scalable Vector Graphics 1.1. One unit is one sample; that of the first cell is 0,0. Every fifth
/// contour is wide, and has its altitude beside it where it is long; rivers are as wide as they
/// are.
std::string svgOf(const LineSheet& sheet);
/// GeoJSON in the form of RFC 7946, but in cells, which the member "axes" states: x to the east, z
/// to the south, then the altitude. A cell's middle lies half a cell from its number.
std::string geoJsonOf(const LineSheet& sheet);

}  // namespace acre
