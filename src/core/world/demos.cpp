#include "world/demos.h"

namespace acre {

Result<Recipe> loadRecipe(const std::string& fileOrDemo, const std::vector<Override>& overrides) {
  std::error_code ignored;
  if (std::filesystem::exists(fileOrDemo, ignored)) return readRecipeFile(fileOrDemo, overrides);
  std::string names;
  for (const auto* list : {&demos(), &starts()})
    for (const Demo& demo : *list) {
      if (demo.name == fileOrDemo) return recipeFromJson(demo.json, overrides);
      names += ", " + demo.name;
    }
  return Error{Error::Code::NotFound, "there is no such file and no such demo", fileOrDemo,
      "a recipe file" + names};
}

}  // namespace acre
