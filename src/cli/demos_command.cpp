#include "cli/common.h"
#include "world/demos.h"

namespace acre::cli {

void addDemos(CLI::App& app, Action& action) {
  const auto json = std::make_shared<bool>(false);
  app.add_flag("--json", *json, "Machine-readable results");
  app.callback([json, &action] {
    action = [json](Streams& streams) -> Result<int> {
      Json list = Json::array();
      for (const bool start : {false, true}) {
        if (start && !*json) streams.out << "to begin with:\n";
        for (const Demo& demo : start ? starts() : demos()) {
          const auto recipe = recipeFromJson(demo.json);
          if (!recipe) return recipe.error();
          list.push_back({{"name", demo.name}, {"title", recipe->name}, {"seed", recipe->seed},
              {"start", start}});
          if (!*json)
            streams.out << demo.name << "  " << recipe->name << ", seed " << recipe->seed << "\n";
        }
      }
      if (*json) streams.out << list.dump(2) << "\n";
      return 0;
    };
  });
}

}  // namespace acre::cli
