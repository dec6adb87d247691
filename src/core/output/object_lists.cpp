#include "output/object_lists.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/atomic_file.h"
#include "output/line_files.h"
#include "output/map_writer.h"
#include "recipe/json.h"
#include "recipe/object_recipe.h"
#include "world/world.h"

namespace acre {
namespace {

using Json = nlohmann::ordered_json;

std::string quoted(const std::string& text) {
  std::string out = "\"";
  for (const char c : text) out += c == '"' ? std::string("\"\"") : std::string(1, c);
  return out + "\"";
}

Json origin(const World& world, const Rect& area) {
  const Recipe& recipe = planOf(world).recipe();
  return {{"area", {area.x, area.z, area.width, area.length}}, {"seed", recipe.seed},
      {"recipe", recipeId(recipe).hex()}};
}

}  // namespace

Json objectJson(const Recipe& recipe, const PlacedObject& object) {
  const auto [kind, what] = namesOf(recipe, object);
  Json at = {object.cell.x, object.cell.z};
  if (recipe.frame.blocks()) at = {object.cell.x, object.y, object.cell.z};
  Json out = {{"id", fmt::format("{:016x}", object.id)}, {"kind", kind}, {"what", what},
      {"at", std::move(at)}, {"turn", object.turn}};
  if (const ObjectPiece* piece = pieceOf(recipe, object)) {
    out["piece"] = piece->id;
    if (piece->mirror) out["mirrored"] = object.mirrored;
  }
  if (const TreeStyle* style = treeOf(recipe, object)) out["tree"] = style->id;
  const auto attributes = attributesOf(recipe, object);
  for (const ObjectAttribute& one : attributes) out["attributes"][one.name] = one.value;
  return out;
}

Json startJson(const Recipe& recipe, const std::optional<WorldStart>& start) {
  if (!start) return nullptr;
  if (recipe.frame.blocks()) return {start->cell.x, start->y, start->cell.z};
  return {start->cell.x, start->cell.z};
}

std::string objectsCsv(const World& world, const std::vector<PlacedObject>& objects) {
  std::string out = "id,kind,what,name,x,z,height,turn\n";
  for (const ObjectPoint& p : objectPoints(world, objects))
    fmt::format_to(std::back_inserter(out), "{},{},{},{},{},{},{},{}\n", p.id, quoted(p.kind),
        quoted(p.what), quoted(p.name), p.cell.x, p.cell.z, static_cast<float>(p.height), p.turn);
  return out;
}

std::string objectsGeoJson(
    const World& world, const Rect& area, const std::vector<PlacedObject>& objects) {
  LineSheet sheet;
  sheet.grid = {
      area.x, area.z, 1, static_cast<int32_t>(area.width), static_cast<int32_t>(area.length)};
  sheet.objects = objectPoints(world, objects);
  sheet.texts = originTexts(world, sheet.grid, "objects");
  return geoJsonOf(sheet);
}

std::string objectsJson(const World& world, const Rect& area,
    const std::vector<PlacedObject>& objects, const std::optional<WorldStart>& start) {
  Json out = origin(world, area);
  out["start"] = startJson(planOf(world).recipe(), start);
  out["objects"] = Json::array();
  for (const PlacedObject& one : objects)
    out["objects"].push_back(objectJson(planOf(world).recipe(), one));
  return out.dump() + "\n";
}

Result<size_t> writeObjects(const World& world, const Rect& area, const std::filesystem::path& file,
    const std::stop_token& stop) {
  const std::string ending = file.extension().string();
  if (ending != ".csv" && ending != ".geojson" && ending != ".json")
    return invalidInput(fmt::format("\"{}\" says no format of a list", file.string()), "--out",
        "a name that ends in .csv, .geojson or .json");
  const auto objects = world.objects().in(area, stop);
  if (!objects) return cancelled();
  std::string text;
  if (ending == ".csv") {
    text = objectsCsv(world, *objects);
  } else if (ending == ".geojson") {
    text = objectsGeoJson(world, area, *objects);
  } else {
    const auto start = worldStart(world, stop);
    if (!start) return start.error();
    text = objectsJson(world, area, *objects, *start);
  }
  if (const Status written = writeFile(file, text); !written) return written.error();
  return objects->size();
}

}  // namespace acre
