#include "output/line_files.h"

#include <fmt/format.h>

#include <cmath>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <utility>

#include "climate/land_sampler.h"
#include "output/carried_recipe.h"
#include "output/sign_stamps.h"
#include "recipe/object_recipe.h"
#include "water/water_stage.h"
#include "world/world.h"

namespace acre {
namespace {

/// Courses as they are drawn, joined end to end. Places are in 1/256 cell from the area's corner.
class Joiner {
 public:
  /// inside: the part of the area that lies in the world.
  Joiner(const Rect& area, const Rect& inside) : area_(area), inside_(inside) {}

  void add(const CoursePiece& piece) {
    Piece& own = pieces_.emplace_back();
    own.brick = piece.brick;
    const Cell m = middleOf(piece.brick);
    const int64_t x = (m.x - area_.x) * kGrain, z = (m.z - area_.z) * kGrain;
    for (const CoursePoint& p : piece.points) {
      own.points.push_back(p);
      own.points.back().x += x;
      own.points.back().z += z;
    }
  }

  std::vector<RiverPath> paths() {
    std::multimap<Place, size_t> begins;
    for (size_t k = 0; k < pieces_.size(); ++k)
      begins.emplace(placeOf(pieces_[k].points.front()), k);
    // What goes on where a piece ends: the piece after it, else the first that begins there.
    const auto nextOf = [&](size_t k) -> std::optional<size_t> {
      const Place end = placeOf(pieces_[k].points.back());
      if (k + 1 < pieces_.size() && placeOf(pieces_[k + 1].points.front()) == end) return k + 1;
      const auto next = begins.lower_bound(end);
      if (next == begins.end() || next->first != end || next->second == k) return {};
      return next->second;
    };
    std::vector<std::optional<size_t>> before(pieces_.size());
    for (size_t k = 0; k < pieces_.size(); ++k) {
      const std::optional<size_t> next = nextOf(k);
      if (!next) continue;
      auto& taken = before[*next];
      if (!taken || pieces_[*taken].points.front().radius < pieces_[k].points.front().radius)
        taken = k;
    }
    std::vector<std::optional<size_t>> after(pieces_.size());
    for (size_t k = 0; k < pieces_.size(); ++k)
      if (before[k]) after[*before[k]] = k;
    for (size_t k = 0; k < pieces_.size(); ++k)
      if (!before[k]) follow(k, after);
    return std::move(out_);
  }

 private:
  struct Piece {
    Brick brick;
    std::vector<CoursePoint> points;
  };
  using Place = std::pair<int64_t, int64_t>;
  static Place placeOf(const CoursePoint& p) { return {p.x, p.z}; }

  /// What of it lies inside: more than one path where it leaves and comes back.
  void follow(size_t first, const std::vector<std::optional<size_t>>& after) {
    bool inside = false;
    for (std::optional<size_t> k = first; k; k = after[*k])
      for (size_t n = *k == first ? 0 : 1; n < pieces_[*k].points.size(); ++n) {
        const CoursePoint& p = pieces_[*k].points[n];
        const bool is =
            inside_.contains({area_.x + floorDiv(p.x, kGrain), area_.z + floorDiv(p.z, kGrain)});
        if (is && !inside) begin(pieces_[*k].brick);
        if (is)
          out_.back().places.push_back(
              {cellsOf(p.x), cellsOf(p.z), cellsOf(p.level), 2 * cellsOf(p.radius)});
        inside = is;
      }
    if (!out_.empty() && out_.back().places.size() < 2) out_.pop_back();
  }
  void begin(Brick brick) {
    if (!out_.empty() && out_.back().places.size() < 2) out_.pop_back();
    out_.push_back({brick, {}});
  }

  const Rect area_, inside_;
  std::vector<Piece> pieces_;
  std::vector<RiverPath> out_;
};

std::string escaped(const std::string& text) {
  return xmlText(oneLine(text));
}

void drawContours(const LineSheet& sheet, std::string& out) {
  out += "<g fill=\"none\" stroke=\"#1F2D3A\" stroke-linejoin=\"round\">\n";
  std::string labels;
  for (const ContourLine& line : sheet.contours) {
    const auto index = std::llround(line.level / sheet.interval);
    out += fmt::format("<path class=\"contour\" data-level=\"{}\" stroke-width=\"{}\" d=\"M",
        line.level, index % 5 == 0 ? "1.25" : "0.75");
    const size_t drawn = line.points.size() - (line.closed ? 1 : 0);
    for (size_t i = 0; i < drawn; ++i)
      out += fmt::format("{}{:.3f} {:.3f}", i ? "L" : "", line.points[i].x, line.points[i].z);
    out += line.closed ? "Z\"/>\n" : "\"/>\n";
    if (index % 5 == 0 && line.points.size() > 60) {
      const ContourPoint p = line.points[line.points.size() / 2];
      labels += fmt::format("<text x=\"{:.1f}\" y=\"{:.1f}\">{:g}</text>\n", p.x, p.z, line.level);
    }
  }
  out +=
      "</g>\n<g font-family=\"serif\" font-size=\"9\" fill=\"#1F2D3A\" stroke=\"#FBF9F3\" "
      "stroke-width=\"2\" paint-order=\"stroke\" text-anchor=\"middle\">\n" +
      labels + "</g>\n";
}

/// A path has one width: a river is as many as it changes by a fifth.
void drawRivers(const LineSheet& sheet, std::string& out) {
  constexpr double kAlike = 1.2, kThinnest = 0.5;
  const auto step = static_cast<double>(sheet.grid.step);
  out +=
      "<g fill=\"none\" stroke=\"#2C5670\" stroke-linejoin=\"round\" stroke-linecap=\"round\">\n";
  for (const RiverPath& river : sheet.rivers)
    for (size_t from = 0; from + 1 < river.places.size();) {
      size_t to = from + 1;
      const double width = river.places[from].width;
      const auto alike = [&](double other) {
        return other <= width * kAlike && width <= other * kAlike;
      };
      while (to + 1 < river.places.size() && alike(river.places[to].width)) ++to;
      out += fmt::format(
          "<path class=\"river\" data-brick=\"{},{}\" data-level=\"{:.2f}\" "
          "data-level-end=\"{:.2f}\" data-width=\"{:.2f}\" stroke-width=\"{:.2f}\" d=\"M",
          river.brick.i, river.brick.j, river.places[from].level, river.places[to].level, width,
          std::max(kThinnest, width / step));
      for (size_t n = from; n <= to; ++n)
        out += fmt::format("{}{:.3f} {:.3f}", n > from ? "L" : "", (river.places[n].x - 0.5) / step,
            (river.places[n].z - 0.5) / step);
      out += "\"/>\n";
      from = to;
    }
  out += "</g>\n";
}

double thousandths(double v) {
  return std::round(v * 1000) / 1000;
}

void drawObjects(const LineSheet& sheet, std::string& out) {
  const auto step = static_cast<double>(sheet.grid.step);
  const auto at = [&](int64_t cell, int64_t first) {
    return (static_cast<double>(cell - first)) / step;
  };
  out += "<g>\n";
  for (const ObjectPoint& p : sheet.objects)
    out += fmt::format(
        "<circle class=\"object\" data-id=\"{}\" data-kind=\"{}\" cx=\"{:.3f}\" cy=\"{:.3f}\" "
        "r=\"{:.2f}\" fill=\"#{:02X}{:02X}{:02X}\"><title>{}</title></circle>\n",
        p.id, escaped(p.kind), at(p.cell.x, sheet.grid.x), at(p.cell.z, sheet.grid.z),
        p.radius / step, p.ink.red, p.ink.green, p.ink.blue, escaped(p.name));
  out += "</g>\n";
}

}  // namespace

Result<std::vector<RiverPath>> riverPaths(
    const World& world, const Rect& area, const std::stop_token& stop) {
  const WaterStage& stage = *world.water();
  // Ways through lakes belong to the brick that they begin in.
  constexpr int64_t kFar = Courses::kReach;
  const Brick first = brickOf({area.x, area.z});
  const Brick last = brickOf({area.x + area.width - 1, area.z + area.length - 1});
  Joiner joiner(area, intersection(area, world.bounds()));
  for (int64_t j = first.j - kFar; j <= last.j + kFar; ++j)
    for (int64_t i = first.i - kFar; i <= last.i + kFar; ++i) {
      const auto pieces = stage.coursesOf({i, j}, stop);
      if (!pieces) return cancelled();
      for (const CoursePiece& piece : *pieces) joiner.add(piece);
    }
  if (!stage.ways()) return joiner.paths();
  for (const CourseWays::At region : stage.ways()->regionsIn(area)) {
    const auto pieces = stage.waysOf(region, stop);
    if (!pieces) return cancelled();
    for (const CoursePiece& piece : *pieces) joiner.add(piece);
  }
  return joiner.paths();
}

std::vector<ObjectPoint> objectPoints(
    const World& world, const std::vector<PlacedObject>& objects) {
  std::vector<Cell> cells;
  for (const PlacedObject& one : objects) cells.push_back(one.cell);
  const std::vector<float> heights = world.parts().land->heightsOf(cells);
  const Recipe& recipe = planOf(world).recipe();
  std::vector<ObjectPoint> out;
  for (size_t n = 0; n < objects.size(); ++n) {
    const PlacedObject& one = objects[n];
    const ObjectKind& kind = recipe.objects->kinds[one.kind];
    const auto [id, what] = namesOf(recipe, one);
    out.push_back({fmt::format("{:016x}", one.id), id, what, titleOf(recipe, one), one.cell,
        world.blocks() ? static_cast<double>(one.y) : static_cast<double>(heights[n]), one.turn,
        kind.ink, signSize(kind, 1)});
  }
  return out;
}

std::string svgOf(const LineSheet& sheet) {
  std::string out = fmt::format(
      "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0}\" height=\"{1}\" "
      "viewBox=\"-0.5 -0.5 {0} {1}\">\n<desc>",
      sheet.grid.width, sheet.grid.length);
  for (const auto& [key, value] : sheet.texts) out += fmt::format("{}: {}\n", key, escaped(value));
  out += "One unit is one sample; sample 0,0 is the first cell.</desc>\n";
  if (!sheet.rivers.empty()) drawRivers(sheet, out);
  drawContours(sheet, out);
  if (!sheet.objects.empty()) drawObjects(sheet, out);
  return out + "</svg>\n";
}

std::string geoJsonOf(const LineSheet& sheet) {
  using Json = nlohmann::ordered_json;
  const auto x0 = static_cast<double>(sheet.grid.x), z0 = static_cast<double>(sheet.grid.z);
  const auto step = static_cast<double>(sheet.grid.step);
  Json features = Json::array();
  const auto add = [&](Json line, Json properties, const char* type = "LineString") {
    features.push_back(
        {{"type", "Feature"}, {"geometry", {{"type", type}, {"coordinates", std::move(line)}}},
            {"properties", std::move(properties)}});
  };
  for (const RiverPath& river : sheet.rivers) {
    Json line = Json::array(), widths = Json::array();
    for (const RiverPlace& p : river.places) {
      line.push_back({thousandths(x0 + p.x), thousandths(z0 + p.z), thousandths(p.level)});
      widths.push_back(thousandths(p.width));
    }
    add(std::move(line),
        {{"kind", "river"}, {"brick", {river.brick.i, river.brick.j}},
            {"level", thousandths(river.places.front().level)},
            {"levelEnd", thousandths(river.places.back().level)}, {"widths", std::move(widths)}});
  }
  for (const ContourLine& contour : sheet.contours) {
    Json line = Json::array();
    for (const ContourPoint& p : contour.points)
      line.push_back({thousandths(x0 + static_cast<double>(p.x) * step + 0.5),
          thousandths(z0 + static_cast<double>(p.z) * step + 0.5), contour.level});
    add(std::move(line), {{"kind", "contour"}, {"level", contour.level}});
  }
  for (const ObjectPoint& p : sheet.objects)
    add({static_cast<double>(p.cell.x) + 0.5, static_cast<double>(p.cell.z) + 0.5,
            thousandths(p.height)},
        {{"kind", "object"}, {"id", p.id}, {"of", p.kind}, {"what", p.what}, {"name", p.name},
            {"turn", p.turn}},
        "Point");
  Json origin = Json::object();
  for (const auto& [key, value] : sheet.texts) origin[key] = value;
  return Json{{"type", "FeatureCollection"},
             {"axes", "cells: x to the east, z to the south, altitude; no longitude or latitude"},
             {"origin", std::move(origin)}, {"features", std::move(features)}}
             .dump() +
         "\n";
}

}  // namespace acre
