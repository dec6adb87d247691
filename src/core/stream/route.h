/// Where a viewpoint goes when a world is traversed.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/coords.h"
#include "base/result.h"

namespace acre {

/// Straight: east, and a cell south for every four. Zigzag: legs of 1,000 cells, each at a right
/// angle to the last. Circle: 1,000 cells about a point south of the start. Teleports: every second
/// a leap to a place up to a million cells away. Points: from one to the next.
enum class RouteKind { Straight, Zigzag, Circle, Teleports, Points };

struct Route {
  RouteKind kind = RouteKind::Straight;
  Cell start;
  std::vector<Cell> points;  ///< Of Points: at least one.
  std::vector<double>
      times;  ///< Recorded routes: seconds at each point, ascending. Empty: by speed.

  /// Where it is after so many seconds at `speed` cells a second; past the last point it stays.
  Cell at(double seconds, double speed) const;
  /// Seconds until the last point; negative: without end.
  double length(double speed) const;
  bool operator==(const Route&) const = default;
};

/// "straight", "zigzag", "circle", "teleports", "points".
const char* routeName(RouteKind kind);
/// A built-in route by name, or a file: {"points": [[x, z], ...], "seconds": [...]}, the seconds
/// optional. At most 1,000,000 points.
Result<Route> routeNamed(const std::string& nameOrFile);
Result<Route> routeFromText(const std::string& text, const std::string& where);
std::string routeText(const Route& route);

}  // namespace acre
