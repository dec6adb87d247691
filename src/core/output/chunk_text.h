/// One chunk as JSON or as a table.
#pragma once

#include <filesystem>
#include <string>

#include "world/world.h"

namespace acre {

/// { "chunk": [cx,cz], "first": [x,z], "size": [w,h], "seed", "recipe", "hash", "palette": [ids],
///   "heights": [...], "materials": [palette indices] }, x fastest.
std::string chunkJson(const World& world, const Chunk& chunk);

/// A header line, then one line per cell: x,z,height,material.
std::string chunkCsv(const World& world, const Chunk& chunk);

/// By the file's ending, .json or .csv; atomically.
Status writeChunk(const World& world, const Chunk& chunk, const std::filesystem::path& file);

}  // namespace acre
