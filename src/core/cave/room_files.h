/// Rooms that a level's recipe names: as texts, whatever they are kept in.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/result.h"
#include "recipe/level_recipe.h"

namespace acre {

/// Rows of '#', '.', ' ' and marks, by process and piece; empty for processes that are no rooms.
using RoomTexts = std::vector<std::vector<std::string>>;

/// Texts of all rooms: from the recipe, or from its files, whose names start at `folder`. A PNG has
/// a pixel a cell: black is solid, white open, wholly clear whatever is there; anything else is
/// refused with its place.
Result<RoomTexts> readRooms(const Level& level, const std::filesystem::path& folder);

}  // namespace acre
