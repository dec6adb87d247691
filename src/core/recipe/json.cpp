#include "recipe/json.h"

#include <fmt/format.h>

#include "base/atomic_file.h"
#include "recipe/json_words.h"
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
  Recipe recipe = readRecipe(JsonReader(*document, fault));
  if (fault) return *fault;
  if (const Status valid = validate(recipe); !valid) return valid.error();
  return recipe;
}

Result<Recipe> readRecipeFile(const std::filesystem::path& file,
                              const std::vector<Override>& overrides) {
  const auto text = readWholeFile(file, kLargestRecipeFile);
  if (!text) return text.error();
  auto recipe = recipeFromJson(*text, overrides);
  if (recipe) {
    recipe->folder = file.parent_path().string();
    return recipe;
  }
  Error error = recipe.error();
  if (!error.where.starts_with("--set"))
    error.where = file.string() + (error.where.empty() ? "" : " at " + error.where);
  return error;
}

std::string recipeToJson(const Recipe& recipe) {
  return recipeJson(recipe).dump(2) + "\n";
}

Status writeRecipeFile(const std::filesystem::path& file, const Recipe& recipe) {
  auto out = AtomicFile::open(file);
  if (!out) return out.error();
  if (Status written = out->write(recipeToJson(recipe)); !written) return written;
  return out->commit();
}

Digest recipeId(const Recipe& recipe) {
  return DigestWriter().text(recipeJson(recipe).dump()).finish();
}

}  // namespace acre
