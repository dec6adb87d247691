// What is told of objects, by the recipe.
#include <algorithm>

#include "base/hash.h"
#include "recipe/object_recipe.h"
#include "world/object_pass.h"

namespace acre {

const char* refusalName(Refusal refusal) {
  static constexpr const char* kNames[kRefusals] = {"", "outside the world", "in a wall",
      "near another kind", "not by another kind", "biome", "under water", "altitude",
      "distance from water", "distance from a wall", "distance from a mouth", "field", "amount",
      "no such cave", "ground", "slope", "uneven ground", "near its own kind"};
  return kNames[static_cast<size_t>(refusal)];
}

double drawOf(uint64_t hash) {
  constexpr uint64_t kChoiceSalt = 2;
  return static_cast<double>(combine(hash, kChoiceSalt) >> 11) * 0x1p-53;
}

std::pair<std::string, std::string> namesOf(const Recipe& recipe, const PlacedObject& object) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  return {
      kind.id, object.choice == PlacedObject::kPlain ? std::string() : kind.what[object.choice].id};
}

namespace {

/// Of some that are named by the member `made` of what was drawn, or else of the kind.
template <class T>
const T* madeOf(const Recipe& recipe, const PlacedObject& object, const std::vector<T>& all,
    std::string ObjectChoice::*drawn, std::string ObjectKind::*usual) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  const std::string* id = &(kind.*usual);
  if (object.choice != PlacedObject::kPlain) {
    const ObjectChoice& one = kind.what[object.choice];
    if (!one.piece.empty() || !one.tree.empty()) id = &(one.*drawn);
  }
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const T& of) { return of.id == *id; });
  return found == all.end() ? nullptr : &*found;
}

}  // namespace

const ObjectPiece* pieceOf(const Recipe& recipe, const PlacedObject& object) {
  return madeOf(recipe, object, recipe.objects->pieces, &ObjectChoice::piece, &ObjectKind::piece);
}

const TreeStyle* treeOf(const Recipe& recipe, const PlacedObject& object) {
  return madeOf(recipe, object, recipe.objects->trees, &ObjectChoice::tree, &ObjectKind::tree);
}

std::vector<ObjectAttribute> attributesOf(const Recipe& recipe, const PlacedObject& object) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  std::vector<ObjectAttribute> out = kind.attributes;
  if (object.choice == PlacedObject::kPlain) return out;
  for (const ObjectAttribute& own : kind.what[object.choice].attributes) {
    std::erase_if(out, [&](const ObjectAttribute& one) { return one.name == own.name; });
    out.push_back(own);
  }
  return out;
}

std::string titleOf(const Recipe& recipe, const PlacedObject& object) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  return object.choice == PlacedObject::kPlain ? kind.name : kind.what[object.choice].name;
}

}  // namespace acre
