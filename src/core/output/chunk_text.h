/// One chunk as JSON or as a table.
#pragma once

#include <filesystem>
#include <string>

#include "world/plan.h"

namespace acre {

/// { "chunk": [cx,cz], "first": [x,z], "size": [w,h], "seed", "recipe", "hash", "palette": [ids],
///   "heights": [...], "materials": [palette indices] }, x fastest.
std::string chunkJson(const World& world, const Chunk& chunk);

/// A header line, then one line per cell: x,z,height,material.
std::string chunkCsv(const World& world, const Chunk& chunk);

/// How shapes of chunks are written.
struct ShapeOptions {
  double exaggeration = 1;   ///< Of the heights of columns, 0.01 ... 100.
  bool smooth = false;       ///< Of blocks: the smooth surface, closed at the chunk's sides.
  bool clearLeaves = false;  ///< Of blocks, unless smooth: leaves of trees are seen through.
};

/// By the file's ending: .json, .csv, .nrrd, .obj, .ply or .glb; atomically.
Status writeChunk(const World& world, const Chunk& chunk, const std::filesystem::path& file,
    const ShapeOptions& shape = {});

}  // namespace acre
