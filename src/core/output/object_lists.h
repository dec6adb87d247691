/// The objects of an area as a list.
#pragma once

#include <filesystem>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "audit/world_start.h"
#include "world/plan.h"

namespace acre {

/// An object as a row of a list: id, kind, what, at ([x,z], of blocks [x,y,z]), turn.
nlohmann::ordered_json objectJson(const Recipe& recipe, const PlacedObject& object);

/// Where one enters: [x,z], of blocks [x,y,z]; null where one cannot.
nlohmann::ordered_json startJson(const Recipe& recipe, const std::optional<WorldStart>& start);

/// A header line, then one line per object: id,kind,what,name,x,z,height,turn. height: of the
/// ground as it was made, in worlds of blocks the level that it stands on. Texts by RFC 4180.
std::string objectsCsv(const World& world, const std::vector<PlacedObject>& objects);
/// Points in the form of RFC 7946, but in cells, as geoJsonOf() has lines; each in the middle of
/// its cell.
std::string objectsGeoJson(
    const World& world, const Rect& area, const std::vector<PlacedObject>& objects);
/// { "area": [x,z,width,length], "seed", "recipe", "start", "objects": [rows] }.
std::string objectsJson(const World& world, const Rect& area,
    const std::vector<PlacedObject>& objects, const std::optional<WorldStart>& start);

/// By the file's ending: .csv, .geojson or .json; atomically. How many were written.
Result<size_t> writeObjects(const World& world, const Rect& area, const std::filesystem::path& file,
    const std::stop_token& stop = {});

}  // namespace acre
