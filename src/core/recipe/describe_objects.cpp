#include <fmt/format.h>

#include <set>

#include "recipe/describe.h"
#include "recipe/object_recipe.h"

namespace acre {

const Words& wordsOf(ObjectSign) {
  static const Words kSigns = {"dot", "ring", "cross", "tuft", "crown", "stone"};
  return kSigns;
}

void describe(Visitor& v, BiomeDensity& of) {
  const MembersOf m(v, of, "biomeDensity");
  m(&BiomeDensity::biome, "biome", "Biome", "Where.", must().of(Role::Biome));
  m(&BiomeDensity::density, "density", "Density", "Of objects in 1,000 cells there.",
      must(number(limits::objectDensity, 0.1)));
}

void describe(Visitor& v, ObjectApart& of) {
  const MembersOf m(v, of, "objectApart");
  m(&ObjectApart::kind, "kind", "Kind", "An earlier one.", must());
  m(&ObjectApart::cells, "cells", "Distance",
      "To those: no nearer, or no farther where it is beside.",
      must(cells(limits::objectDistance, 1)));
}

void describe(Visitor& v, ObjectChoice& of) {
  const MembersOf m(v, of, "objectChoice");
  m.idAndName();
  m(&ObjectChoice::weight, "weight", "Weight", "How often it is drawn, in relation.",
      sparse(number(limits::objectWeight, 0.1)));
}

void describe(Visitor& v, ObjectFooting& of) {
  const MembersOf m(v, of, "objectFooting");
  m(&ObjectFooting::radius, "radius", "Radius", "Cells to each side that are looked at.",
      must(cells(limits::objectFooting, 1)));
  m(&ObjectFooting::rise, "rise", "Rise", "That the highest may lie above the lowest.",
      must(cells({0, limits::altitude.high}, 0.5)));
}

void describe(Visitor& v, ObjectMust& of) {
  const MembersOf m(v, of, "objectMust");
  m(&ObjectMust::square, "square", "Square", "Cells a side, with one in each.",
      must(cells(limits::objectSquare, 64)));
  m(&ObjectMust::forced, "forced", "Forced",
      "Also where no place holds all conditions: then in the one that fails last.", sparse());
}

void describe(Visitor& v, ObjectKind& kind) {
  const MembersOf m(v, kind, "objectKind");
  m.idAndName();
  m.on(&ObjectKind::on);
  m(&ObjectKind::sign, "sign", "Sign", "How maps show them.", sparse().unkeyed());
  m(&ObjectKind::ink, "ink", "Ink", "Of the sign.", sparse().unkeyed());
  m(&ObjectKind::density, "density", "Density", "Of objects in 1,000 cells.",
      must(number(limits::objectDensity, 0.1)));
  m(&ObjectKind::biomes, "biomes", "In biomes", "So many instead in these.",
      sparse().upTo(limits::biomes));
  m(&ObjectKind::distance, "distance", "Distance", "Cells that two of them keep at least.",
      must(cells(limits::objectDistance, 1)));
  m(&ObjectKind::amount, "amount", "Amount",
      "Field that tells what share of the density is asked for, 0 to 1; none: all of it.",
      sparse().of(Role::Field));
  m(&ObjectKind::curve, "curve", "Curve",
      "From its values to shares; none: the value is the share.", sparse(number(limits::share)));
  m(&ObjectKind::must, "must", "One in every square",
      "In place of a density: one in every square of the world.", sparse().orNull());
  m(&ObjectKind::apart, "apart", "Apart", "Cells that they keep from earlier kinds.",
      sparse().upTo(limits::objectKinds));
  m(&ObjectKind::beside, "beside", "Beside", "Earlier kinds, one of each within so many cells.",
      sparse().upTo(limits::objectKinds));
  m(&ObjectKind::ground, "ground", "Ground", "Materials that they stand on; none: any.",
      sparse().of(Role::Listed).upTo(limits::materials));
  m(&ObjectKind::altitude, "altitude", "Altitude", "Cells above the sea, from and to; null: any.",
      sparse(cells(limits::altitude, 1)).orNull());
  m(&ObjectKind::slope, "slope", "Slope", "Rise per cell, from and to; null: any.",
      sparse(number(limits::objectSlope, 0.05)).orNull());
  m(&ObjectKind::shore, "shore", "From water", "Cells from fresh water, from and to; null: any.",
      sparse(cells(limits::shore, 1)).orNull());
  m(&ObjectKind::wet, "wet", "Under water", "Also under the sea, lakes and rivers.", sparse());
  m(&ObjectKind::field, "field", "Field", "That decides; none: nothing but the rest.",
      sparse().of(Role::Field));
  m(&ObjectKind::within, "within", "Within", "Values of the field, from and to; null: any.",
      sparse(number(limits::altitude)).orNull());
  m(&ObjectKind::footing, "footing", "Even ground", "How even the ground about the place is.",
      sparse().orNull());
  m(&ObjectKind::what, "what", "What", "One of these is drawn; none: the kind itself.",
      sparse().upTo(limits::objectChoices));
  v.rule([&](Ruling& rules) {
    double weights = 0;
    for (const ObjectChoice& one : kind.what) weights += one.weight;
    if (!kind.what.empty() && !(weights > 0))
      rules.refuse("what", "nothing is ever drawn", "a weight above 0 for one of them");
    if (kind.must && !kind.amount.empty())
      rules.refuse(
          "amount", "one in every square is neither more nor less", "no amount, or no \"must\"");
    const std::pair<const char*, const Span*> spans[] = {{"altitude", &kind.altitude},
        {"slope", &kind.slope}, {"shore", &kind.shore}, {"within", &kind.within}};
    for (const auto& [key, span] : spans)
      if (span->low && span->high && *span->low > *span->high)
        rules.refuse(key, fmt::format("{} to {} holds nothing", *span->low, *span->high),
            "the lower end first");
  });
}

void describe(Visitor& v, Objects& objects) {
  const MembersOf m(v, objects, "objects");
  m.on(&Objects::on);
  m(&Objects::kinds, "kinds", "Kinds", "In order of precedence.",
      sparse().upTo(limits::objectKinds));
  v.rule([&](Ruling& rules) {
    std::set<std::string> earlier;
    for (size_t k = 0; k < objects.kinds.size(); ++k) {
      const ObjectKind& kind = objects.kinds[k];
      for (const auto& [key, list] : {std::pair("apart", &kind.apart), {"beside", &kind.beside}})
        for (size_t n = 0; n < list->size(); ++n)
          if (!earlier.contains((*list)[n].kind))
            rules.refuse(fmt::format("kinds/{}/{}/{}/kind", k, key, n),
                fmt::format("no kind \"{:.80}\" stands before this one", (*list)[n].kind),
                "the id of an earlier kind");
      earlier.insert(objects.kinds[k].id);
    }
  });
}

}  // namespace acre
