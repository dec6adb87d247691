#include "output/chunk_text.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/atomic_file.h"
#include "recipe/json.h"
#include "world/fingerprint.h"

namespace acre {

std::string chunkJson(const World& world, const Chunk& chunk) {
  nlohmann::ordered_json out;
  out["chunk"] = {chunk.pos.cx, chunk.pos.cz};
  out["first"] = {chunk.rect.x, chunk.rect.z};
  out["size"] = {chunk.rect.width, chunk.rect.height};
  out["seed"] = world.recipe().seed;
  out["recipe"] = recipeId(world.recipe()).hex();
  out["hash"] = chunkHash(world, chunk).hex();
  out["palette"] = {kUnassignedId};
  for (const Material& m : world.recipe().materials) out["palette"].push_back(m.id);
  // Floats print in the shortest form that reads back equal, which a detour over double would lose.
  std::string heights;
  for (const float h : chunk.heights)
    fmt::format_to(std::back_inserter(heights), "{}{}", heights.empty() ? "" : ",", h);
  out["materials"] = chunk.materials.unpacked();
  std::string text = out.dump();
  text.pop_back();
  return text + ",\"heights\":[" + heights + "]}\n";
}

std::string chunkCsv(const World& world, const Chunk& chunk) {
  std::string text = "x,z,height,material\n";
  size_t i = 0;
  for (int64_t z = chunk.rect.z; z < chunk.rect.z + chunk.rect.height; ++z)
    for (int64_t x = chunk.rect.x; x < chunk.rect.x + chunk.rect.width; ++x, ++i)
      fmt::format_to(std::back_inserter(text), "{},{},{},{}\n", x, z, chunk.heights[i],
                     world.materialId(chunk.materials[i]));
  return text;
}

Status writeChunk(const World& world, const Chunk& chunk, const std::filesystem::path& file) {
  const bool json = file.extension() == ".json";
  if (!json && file.extension() != ".csv")
    return Error{Error::Code::InvalidInput,
                 fmt::format("\"{}\" is no format for chunks", file.extension().string()), "--out",
                 ".json, .csv"};
  auto out = AtomicFile::open(file);
  if (!out) return out.error();
  if (Status written = out->write(json ? chunkJson(world, chunk) : chunkCsv(world, chunk));
      !written)
    return written;
  return out->commit();
}

}  // namespace acre
