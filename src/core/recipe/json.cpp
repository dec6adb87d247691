#include "recipe/json.h"

#include <fmt/format.h>

#include "base/atomic_file.h"
#include "recipe/edits.h"
#include "recipe/json_parts.h"
#include "recipe/overrides.h"
#include "recipe/validate.h"

namespace acre {

std::string colourText(const Colour& colour) {
  return fmt::format("#{:02X}{:02X}{:02X}", colour.red, colour.green, colour.blue);
}

Result<Recipe> recipeFromJson(std::string_view text, const std::vector<Override>& overrides) {
  auto document = parseJson(text);
  if (!document) return document.error();
  for (const Override& change : overrides)
    if (const Status applied = applyOverride(*document, change); !applied) return applied.error();
  std::optional<Error> fault;
  const JsonReader reader(*document, fault);
  Recipe recipe = readRecipe(reader);
  if (!fault && reader.has("edits")) {
    const JsonReader edits = reader.member("edits");
    if (edits.isObject() && edits.has("hash"))
      edits.refuse("the cells changed by hand lie in a file beside the recipe",
          "a recipe that is read from its file, or the cells themselves");
    recipe.edits = readEdits(edits);
  }
  if (fault) return *fault;
  if (const Status valid = validate(recipe); !valid) return valid.error();
  return recipe;
}

namespace {

/// The hash of the side file that a recipe names, taken out of its text; empty when it names none.
std::string takeEditsHash(std::string& text) {
  auto document = parseJson(text);
  if (!document || !document->is_object() || !document->contains("edits")) return {};
  const Json& edits = (*document)["edits"];
  if (!edits.is_object() || edits.size() != 1 || !edits.contains("hash") ||
      !edits["hash"].is_string())
    return {};
  const std::string hash = edits["hash"];
  document->erase("edits");
  text = document->dump();
  return hash;
}

}  // namespace

Result<Recipe> recipeFromJson(std::string_view text, const std::filesystem::path& file,
    const std::vector<Override>& overrides) {
  auto recipe = recipeFromJson(text, overrides);
  if (recipe) {
    recipe->folder = file.parent_path().string();
    return recipe;
  }
  Error error = recipe.error();
  if (!error.where.starts_with("--set"))
    error.where = file.string() + (error.where.empty() ? "" : " at " + error.where);
  return error;
}

Result<Recipe> readRecipeFile(
    const std::filesystem::path& file, const std::vector<Override>& overrides) {
  auto text = readWholeFile(file, kLargestRecipeFile);
  if (!text) return text.error();
  const std::string hash = takeEditsHash(*text);
  auto recipe = recipeFromJson(*text, file, overrides);
  if (recipe && !hash.empty())
    if (const Status read = readEditsFile(file, hash, *recipe, !overrides.empty()); !read)
      return read.error();
  return recipe;
}

std::vector<std::filesystem::path> filesOf(
    const Recipe& recipe, const std::filesystem::path& recipeFile) {
  std::vector<std::filesystem::path> out;
  if (!recipeFile.empty()) out = {recipeFile, editsFileOf(recipeFile)};
  Recipe copy = recipe;
  eachFile(copy,
      [&](const std::string& file) { out.push_back(std::filesystem::path(recipe.folder) / file); });
  return out;
}

std::string recipeToJson(const Recipe& recipe) {
  Json out = recipeJson(recipe);
  if (recipe.edits && !recipe.edits->empty()) out["edits"] = editsJson(*recipe.edits);
  return out.dump(2) + "\n";
}

Status writeRecipeFile(const std::filesystem::path& file, const Recipe& recipe) {
  Json json = recipeJson(recipe);
  auto out = AtomicFile::open(file);
  if (!out) return out.error();
  const bool edited = recipe.edits && !recipe.edits->empty();
  if (!edited) {
    if (Status written = out->write(json.dump(2) + "\n"); !written) return written;
    return out->commit();
  }
  const std::string cells = editsText(recipe);
  json["edits"] = {{"hash", DigestWriter().text(cells).finish().hex()}};
  auto side = AtomicFile::open(editsFileOf(file));
  if (!side) return side.error();
  if (Status written = side->write(cells); !written) return written;
  if (Status written = out->write(json.dump(2) + "\n"); !written) return written;
  return AtomicFile::commit({&*side, &*out});
}

Digest recipeId(const Recipe& recipe) {
  return DigestWriter().text(recipeJson(recipe).dump()).finish();
}

}  // namespace acre
