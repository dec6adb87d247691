// Prints what every demo is on this machine: fingerprint, hashes of small areas far apart, and that
// the proof holds with every instruction set there is. Two machines must print the same.
// usage: acre_fingerprint [small]   small: smaller areas and fewer cells for the second evaluator,
// for a machine that is emulated
#include <cstdio>
#include <string>
#include <string_view>

#include "audit/proof.h"
#include "noise/kernels.h"
#include "recipe/stages.h"
#include "recipe/water_recipe.h"
#include "reference/prover.h"
#include "world/demos.h"
#include "world/engine.h"
#include "world/fingerprint.h"

int main(int argc, char** argv) {
  const bool small = argc > 1 && std::string_view(argv[1]) == "small";
  std::fprintf(stderr, "instruction sets:");
  for (const acre::Kernels* kernels : acre::availableKernels())
    std::fprintf(stderr, " %s", kernels->name);
  std::fprintf(stderr, "\n");
  bool holds = true;
  for (const acre::Demo& demo : acre::demos()) {
    auto recipe = acre::loadRecipe(demo.name);
    if (!recipe) return 2;
    // Every way of asking finds a network of rivers and settles objects of its own: an emulated
    // machine finds them once, and proves the rest without.
    std::string whole;
    if (small &&
        (takesPart(*recipe, acre::StageId::Water) || takesPart(*recipe, acre::StageId::Objects))) {
      const auto engine = acre::Engine::create({});
      if (!engine) return 2;
      const auto world = (*engine)->compile(*recipe);
      if (!world) return 2;
      const auto hash = acre::areaHash(**world, {-16, 130, 12, 12});
      if (!hash) return 2;
      whole = " " + hash->hex();
      recipe->rivers->on = recipe->objects->on = false;
    }
    acre::ProofOptions options;
    options.side = small ? 8 : 24;
    options.sampledCells = small ? 1 : 12;
    if (small && recipe->frame.kind == acre::WorldKind::Voxel) options.areas = {{-4, 130, 8, 8}};
    options.threads = small ? std::vector<unsigned>{2} : std::vector<unsigned>{2, 0};
    reference::testify(*recipe, options);
    const auto proof = acre::prove(*recipe, options);
    if (!proof) {
      std::fprintf(stderr, "%s: %s\n", demo.name.c_str(), proof.error().text().c_str());
      return 2;
    }
    if (!proof->holds()) std::fprintf(stderr, "%s\n", acre::proofText(*proof).c_str());
    holds = holds && proof->holds();
    std::printf("%s %s%s", demo.name.c_str(), proof->world.hex().c_str(), whole.c_str());
    for (const acre::Digest& area : proof->areaHashes) std::printf(" %s", area.hex().c_str());
    std::printf("\n");
  }
  return holds ? 0 : 1;
}
