#include "audit/object_trials.h"

#include <fmt/format.h>

#include <algorithm>

#include "audit/object_figures.h"
#include "recipe/object_recipe.h"
#include "recipe/stages.h"
#include "world/world.h"

namespace acre {
namespace {

/// False when stopped.
bool tryOne(const World& world, const std::stop_token& stop, MustTrial& trial) {
  const auto& kinds = world.recipe().objects->kinds;
  for (size_t k = 0; k < kinds.size(); ++k) {
    if (!kinds[k].on || !kinds[k].must) continue;
    ObjectFigures all;
    all.kind = k;
    const Rect about = intersection({-1, -1, 2, 2}, world.bounds());
    if (about.empty()) continue;
    if (!countSquares(world, about, stop, all)) return false;
    trial.squares += all.squares;
    trial.missing += all.missing;
    trial.forced += all.forced;
    if (all.missing > 0)
      trial.fault += fmt::format("{}{} is missing in {} of {} squares: {}",
          trial.fault.empty() ? "" : "; ", kinds[k].name, all.missing, all.squares, all.reasons());
  }
  return true;
}

}  // namespace

Result<MustTrials> tryMustHaves(Engine& engine, const Recipe& recipe, int64_t first, int count,
    const std::stop_token& stop, const std::function<void(double)>& progress) {
  const auto& kinds = recipe.objects->kinds;
  if (!takesPart(recipe, StageId::Objects) ||
      std::none_of(kinds.begin(), kinds.end(), [](const ObjectKind& k) { return k.on && k.must; }))
    return invalidInput("only levels have floors, and nothing has to be in every square here",
        "/objects/kinds", "a level, or a kind with \"must\"");
  MustTrials out;
  Recipe one = recipe;
  for (int n = 0; n < count; ++n) {
    one.seed = std::to_string(first + n);
    const auto world = engine.compile(one);
    if (!world) return world.error();
    MustTrial& trial = out.list.emplace_back();
    trial.seed = one.seed;
    if (!tryOne(**world, stop, trial)) return cancelled();
    out.failing += trial.missing > 0;
    if (progress) progress((n + 1.0) / count);
  }
  return out;
}

}  // namespace acre
