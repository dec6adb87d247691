#include <fmt/format.h>

#include "base/atomic_file.h"
#include "recipe/edits.h"
#include "recipe/json.h"
#include "recipe/json_parts.h"
#include "recipe/validate.h"

namespace acre {
namespace {

constexpr const char* kEditsFormat = "kindred-acre edits";
constexpr uint64_t kLargestEditsFile = uint64_t{256} << 20;

/// Cells in order, as differences along x where they follow each other: [x, y, z, material, ...].
Json cellsJson(const EditSet& edits) {
  Json cells = Json::array();
  for (const Edit& e : edits.all()) {
    const auto& ids = edits.materials();
    const auto at = std::find(ids.begin(), ids.end(), e.material) - ids.begin();
    cells.push_back(e.x);
    cells.push_back(e.y);
    cells.push_back(e.z);
    cells.push_back(at);
  }
  return cells;
}

std::vector<std::string> readTexts(const JsonReader& in) {
  std::vector<std::string> out;
  for (const JsonReader& text : in.members()) out.push_back(text.text());
  return out;
}

}  // namespace

Json editsJson(const EditSet& edits) {
  return {{"seed", edits.seed()}, {"materials", edits.materials()}, {"cells", cellsJson(edits)}};
}

Edits readEdits(const JsonReader& in) {
  in.expectObject({"format", "version", "recipe", "seed", "materials", "cells"});
  const std::string seed = in.member("seed").text();
  std::vector<std::string> materials = readTexts(in.member("materials"));
  const auto cells = in.member("cells").members();
  if (cells.size() % 4 != 0 || cells.size() / 4 > EditSet::kMost) {
    in.member("cells").refuse(fmt::format("{} numbers", cells.size()),
        fmt::format("x, y, z and material of at most {} cells", EditSet::kMost));
    return nullptr;
  }
  std::vector<Edit> edits;
  edits.reserve(cells.size() / 4);
  const auto most = materials.empty() ? 0 : static_cast<int64_t>(materials.size()) - 1;
  for (size_t i = 0; i + 3 < cells.size(); i += 4)
    edits.push_back({cells[i].integer(-kMaxCell, kMaxCell),
        cells[i + 1].integer(-(1 << 24), 1 << 24), cells[i + 2].integer(-kMaxCell, kMaxCell),
        materials.empty() ? std::string()
                          : materials[static_cast<size_t>(cells[i + 3].integer(0, most))]});
  return EditSet(seed).with(edits);
}

std::filesystem::path editsFileOf(const std::filesystem::path& recipeFile) {
  std::filesystem::path file = recipeFile;
  return file.replace_extension(".edits");
}

std::string editsText(const Recipe& recipe) {
  Json out = {{"format", kEditsFormat}, {"version", 1}, {"recipe", recipeId(recipe).hex()}};
  const Json body = editsJson(*recipe.edits);
  for (const auto& [key, value] : body.items()) out[key] = value;
  return out.dump() + "\n";
}

Status readEditsFile(const std::filesystem::path& recipeFile, const std::string& hash,
    Recipe& recipe, bool overridden) {
  const std::filesystem::path file = editsFileOf(recipeFile);
  const auto refuse = [&](std::string what) {
    return Error{Error::Code::InvalidInput, std::move(what), file.string(),
        "the file that was saved with this recipe; without it take \"edits\" out of the "
        "recipe"};
  };
  const auto text = readWholeFile(file, kLargestEditsFile);
  if (!text) return refuse("the cells changed by hand cannot be read: " + text.error().what);
  if (DigestWriter().text(*text).finish().hex() != hash)
    return refuse("these are not the cells that the recipe was saved with");
  auto document = parseJson(*text);
  if (!document) return refuse(document.error().text());
  std::optional<Error> fault;
  const JsonReader reader(*document, fault);
  Edits edits = readEdits(reader);
  reader.member("format").choice({kEditsFormat});
  reader.member("version").integer(1, 1);
  const std::string id = reader.member("recipe").text();
  if (fault) return refuse(fault->text());
  // Overrides make another recipe on purpose.
  if (!overridden && id != recipeId(recipe).hex())
    return refuse("these cells were changed in a world of another recipe");
  recipe.edits = std::move(edits);
  return validate(recipe);
}

}  // namespace acre
