#include "stream/route.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>

#include "base/atomic_file.h"
#include "base/hash.h"
#include "recipe/json_reader.h"
#include "recipe/validate.h"

namespace acre {
namespace {

constexpr double kLeg = 1000;
constexpr uint64_t kLargestRouteFile = uint64_t{64} << 20;
constexpr size_t kMostPoints = 1'000'000;

Cell moved(Cell from, double dx, double dz) {
  return {from.x + std::llround(dx), from.z + std::llround(dz)};
}

double distance(Cell a, Cell b) {
  return std::hypot(static_cast<double>(b.x - a.x), static_cast<double>(b.z - a.z));
}

Cell between(Cell a, Cell b, double share) {
  return moved(a, static_cast<double>(b.x - a.x) * share, static_cast<double>(b.z - a.z) * share);
}

}  // namespace

Cell Route::at(double seconds, double speed) const {
  const double way = seconds * speed;
  switch (kind) {
    case RouteKind::Straight: {
      const double along = way / std::sqrt(17.0);
      return moved(start, 4 * along, along);
    }
    case RouteKind::Zigzag: {
      const double legs = std::floor(way / kLeg), rest = way - legs * kLeg;
      const bool down = std::fmod(legs, 2) == 0;
      const double slant = std::numbers::sqrt2 / 2;
      return moved(start, way * slant, (down ? rest : kLeg - rest) * slant);
    }
    case RouteKind::Circle: {
      const double turn = way / kLeg;
      return moved(start, kLeg * std::sin(turn), kLeg * (1 - std::cos(turn)));
    }
    case RouteKind::Teleports: {
      const auto leap = static_cast<uint64_t>(std::max(0.0, std::floor(seconds)));
      const uint64_t bits = mix64(leap);
      Cell from = start;
      if (leap > 0)
        from = {start.x + static_cast<int64_t>(bits % 2'000'001) - 1'000'000,
            start.z + static_cast<int64_t>((bits >> 32) % 2'000'001) - 1'000'000};
      return moved(from, (seconds - static_cast<double>(leap)) * speed, 0);
    }
    case RouteKind::Points: {
      if (!times.empty()) {
        const auto next = std::upper_bound(times.begin(), times.end(), seconds);
        if (next == times.begin()) return points.front();
        if (next == times.end()) return points.back();
        const auto i = static_cast<size_t>(next - times.begin());
        return between(
            points[i - 1], points[i], (seconds - times[i - 1]) / (times[i] - times[i - 1]));
      }
      double left = way;
      for (size_t i = 1; i < points.size(); ++i) {
        const double leg = distance(points[i - 1], points[i]);
        if (left < leg) return between(points[i - 1], points[i], left / leg);
        left -= leg;
      }
      return points.back();
    }
  }
  return start;
}

double Route::length(double speed) const {
  if (kind != RouteKind::Points) return -1;
  if (!times.empty()) return times.back();
  double way = 0;
  for (size_t i = 1; i < points.size(); ++i) way += distance(points[i - 1], points[i]);
  return way / speed;
}

const char* routeName(RouteKind kind) {
  constexpr const char* kNames[] = {"straight", "zigzag", "circle", "teleports", "points"};
  return kNames[static_cast<size_t>(kind)];
}

Result<Route> routeNamed(const std::string& nameOrFile) {
  for (const RouteKind kind :
      {RouteKind::Straight, RouteKind::Zigzag, RouteKind::Circle, RouteKind::Teleports})
    if (nameOrFile == routeName(kind)) return Route{kind, {}, {}, {}};
  const auto text = readWholeFile(nameOrFile, kLargestRouteFile);
  if (text) return routeFromText(*text, nameOrFile);
  if (text.error().code == Error::Code::NotFound)
    return Error{Error::Code::NotFound, fmt::format("no route \"{:.200}\"", nameOrFile), "--route",
        "straight, zigzag, circle, teleports or a file of points"};
  return text.error();
}

Result<Route> routeFromText(const std::string& text, const std::string& where) {
  const auto placed = [&](Error error) {
    error.where = where + (error.where.empty() ? "" : ", ") + error.where;
    return error;
  };
  const auto json = parseJson(text);
  if (!json) return placed(json.error());
  std::optional<Error> fault;
  const JsonReader root(*json, fault);
  root.expectObject({"points", "seconds"});
  Route route;
  route.kind = RouteKind::Points;
  constexpr int64_t kFar = limits::cell / 4;
  const std::vector<JsonReader> points = root.member("points").members();
  if (!fault && (points.empty() || points.size() > kMostPoints))
    root.member("points").refuse(fmt::format("{} points", points.size()), "1 to 1000000");
  for (const JsonReader& point : points) {
    const std::vector<JsonReader> xz = point.members();
    if (xz.size() != 2) point.refuse("no place", "[x, z], two whole numbers");
    if (fault) return placed(*fault);
    route.points.push_back({xz[0].integer(-kFar, kFar), xz[1].integer(-kFar, kFar)});
  }
  if (!fault && root.has("seconds")) {
    const JsonReader seconds = root.member("seconds");
    for (const JsonReader& at : seconds.members()) {
      const double time = at.number(), last = route.times.empty() ? -1 : route.times.back();
      if (!(time >= 0 && time <= 86'400 && time > last))
        at.refuse(fmt::format("{} seconds", time), "0 to 86400, each above the one before");
      if (fault) return placed(*fault);
      route.times.push_back(time);
    }
    if (route.times.size() != route.points.size())
      seconds.refuse(fmt::format("{} times", route.times.size()), "as many as there are points");
  }
  if (fault) return placed(*fault);
  route.start = route.points.front();
  return route;
}

std::string routeText(const Route& route) {
  nlohmann::ordered_json out;
  out["points"] = nlohmann::json::array();
  for (const Cell cell : route.points) out["points"].push_back({cell.x, cell.z});
  if (!route.times.empty()) out["seconds"] = route.times;
  return out.dump() + "\n";
}

}  // namespace acre
