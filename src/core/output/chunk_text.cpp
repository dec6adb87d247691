#include "output/chunk_text.h"

#include <fmt/format.h>

#include <map>
#include <nlohmann/json.hpp>
#include <tuple>

#include "base/atomic_file.h"
#include "output/mesh_files.h"
#include "output/object_lists.h"
#include "recipe/json.h"
#include "world/fingerprint.h"
#include "world/world.h"

namespace acre {

namespace {

nlohmann::ordered_json objectsOf(const World& world, const Chunk& chunk) {
  nlohmann::ordered_json list = nlohmann::ordered_json::array();
  for (const PlacedObject& one : chunk.objects)
    list.emplace_back(objectJson(planOf(world).recipe(), one))["owned"] = chunk.owns(one);
  return list;
}

/// What stands in each cell, several with a space between: by y (0 of columns), z and x.
std::map<std::tuple<int64_t, int64_t, int64_t>, std::string> objectWords(
    const World& world, const Chunk& chunk) {
  std::map<std::tuple<int64_t, int64_t, int64_t>, std::string> out;
  for (const PlacedObject& one : chunk.objects) {
    std::string& there = out[{one.y, one.cell.z, one.cell.x}];
    const auto [kind, what] = namesOf(planOf(world).recipe(), one);
    there += (there.empty() ? "" : " ") + (what.empty() ? kind : kind + ":" + what);
  }
  return out;
}

/// By group: the set's name and the values.
nlohmann::ordered_json tilesOf(const World& world, const Chunk& chunk) {
  nlohmann::ordered_json list = nlohmann::ordered_json::array();
  for (size_t g = 0; g < chunk.tiles.size(); ++g) {
    const TileStage& stage = *world.tiles().stage();
    const auto group = static_cast<int>(g);
    list.push_back({{"group", stage.group(group).id}, {"set", stage.set(group).id},
        {"values", chunk.tiles[g].unpacked()}});
  }
  return list;
}

/// Names of the columns of tiles, and the values of a cell.
std::string tileColumns(const World& world, const Chunk& chunk) {
  std::string out;
  for (size_t g = 0; g < chunk.tiles.size(); ++g)
    out += ",tile:" + world.tiles().stage()->group(static_cast<int>(g)).id;
  return out;
}
std::string tilesAt(const Chunk& chunk, size_t cell) {
  std::string out;
  for (const PackedCells& plane : chunk.tiles)
    fmt::format_to(std::back_inserter(out), ",{}", plane[cell]);
  return out;
}

}  // namespace

std::string chunkJson(const World& world, const Chunk& chunk) {
  nlohmann::ordered_json out;
  if (chunk.tall > 0) {
    out["chunk"] = {chunk.pos.cx, chunk.pos.cy, chunk.pos.cz};
    out["first"] = {chunk.rect.x, chunk.y, chunk.rect.z};
    out["size"] = {chunk.rect.width, chunk.tall, chunk.rect.length};
  } else {
    out["chunk"] = {chunk.pos.cx, chunk.pos.cz};
    out["first"] = {chunk.rect.x, chunk.rect.z};
    out["size"] = {chunk.rect.width, chunk.rect.length};
  }
  out["seed"] = planOf(world).recipe().seed;
  out["recipe"] = recipeId(planOf(world).recipe()).hex();
  out["hash"] = chunkHash(world, chunk).hex();
  out["palette"] = {kUnassignedId};
  for (const Material& m : planOf(world).recipe().materials) out["palette"].push_back(m.id);
  // Floats print in the shortest form that reads back equal, which a detour over double would lose.
  std::string heights;
  for (const float h : chunk.heights)
    fmt::format_to(std::back_inserter(heights), "{}{}", heights.empty() ? "" : ",", h);
  if (chunk.tall > 0) {  // x fastest, then z, then y.
    out["open"] = kOpen;
    out["blocks"] = chunk.materials.unpacked();
    if (world.objects().any()) out["objects"] = objectsOf(world, chunk);
    if (!chunk.tiles.empty()) out["tiles"] = tilesOf(world, chunk);
    return out.dump() + "\n";
  }
  out["materials"] = chunk.materials.unpacked();
  if (!chunk.fill.empty()) out["fill"] = chunk.fill.unpacked();
  if (!chunk.water.empty()) {
    nlohmann::json levels = nlohmann::json::array();
    for (size_t i = 0; i < chunk.water.size(); ++i)
      levels.push_back(chunk.waterAt(i) ? nlohmann::json(*chunk.waterAt(i)) : nlohmann::json());
    out["water"] = std::move(levels);
    out["waterKind"] = chunk.waterKinds.unpacked();
  }
  if (world.objects().any()) out["objects"] = objectsOf(world, chunk);
  if (!chunk.tiles.empty()) out["tiles"] = tilesOf(world, chunk);
  std::string text = out.dump();
  text.pop_back();
  return text + ",\"heights\":[" + heights + "]}\n";
}

std::string chunkCsv(const World& world, const Chunk& chunk) {
  size_t i = 0;
  const bool stand = world.objects().any();
  auto objects = objectWords(world, chunk);
  if (chunk.tall > 0) {
    std::string text = stand ? "x,y,z,material,objects" : "x,y,z,material";
    text += tileColumns(world, chunk) + "\n";
    for (int64_t y = chunk.y; y < chunk.y + chunk.tall; ++y)
      for (int64_t z = chunk.rect.z; z < chunk.rect.z + chunk.length; ++z)
        for (int64_t x = chunk.rect.x; x < chunk.rect.x + chunk.width; ++x, ++i)
          fmt::format_to(std::back_inserter(text), "{},{},{},{}{}{}\n", x, y, z,
              planOf(world).catalogue().materialId(chunk.materials[i]),
              stand ? "," + objects[{y, z, x}] : "", tilesAt(chunk, i));
    return text;
  }
  const bool fills = !chunk.fill.empty(), wet = !chunk.water.empty();
  std::string text = "x,z,height,material";
  if (fills) text += ",fill";
  if (wet) text += ",water,waterKind";
  if (stand) text += ",objects";
  text += tileColumns(world, chunk) + "\n";
  const auto water = [&](size_t cell) {
    const auto level = chunk.waterAt(cell);
    return fmt::format(",{},{}", level ? fmt::format("{}", *level) : "",
        nameOf(static_cast<WaterKind>(chunk.waterKinds[cell])));
  };
  for (int64_t z = chunk.rect.z; z < chunk.rect.z + chunk.rect.length; ++z)
    for (int64_t x = chunk.rect.x; x < chunk.rect.x + chunk.rect.width; ++x, ++i)
      fmt::format_to(std::back_inserter(text), "{},{},{},{}{}{}{}{}\n", x, z, chunk.heights[i],
          planOf(world).catalogue().materialId(chunk.materials[i]),
          fills ? fmt::format(",{}", chunk.fill[i]) : "", wet ? water(i) : "",
          stand ? "," + objects[{0, z, x}] : "", tilesAt(chunk, i));
  return text;
}

Status writeChunk(const World& world, const Chunk& chunk, const std::filesystem::path& file,
    const ShapeOptions& shape) {
  const std::string ending = file.extension().string();
  if (ending == ".nrrd") return writeNrrd(world, chunk, file);
  if (ending == ".obj" || ending == ".ply" || ending == ".glb") {
    const auto solid = chunk.tall == 0 ? netOfChunk(world, chunk.pos, shape.exaggeration)
                       : shape.smooth  ? surfaceOfChunk(world, chunk.pos)
                                       : facesOfChunk(world, chunk.pos, shape.clearLeaves);
    if (!solid) return solid.error();
    return writeSolid(world, *solid, file);
  }
  const bool json = ending == ".json";
  if (!json && file.extension() != ".csv")
    return Error{Error::Code::InvalidInput,
        fmt::format("\"{}\" is no format for chunks", file.extension().string()), "--out",
        ".json, .csv, .nrrd, .obj, .ply, .glb"};
  return writeFile(file, json ? chunkJson(world, chunk) : chunkCsv(world, chunk));
}

}  // namespace acre
