// What is told of objects, by the recipe.
#include "base/hash.h"
#include "recipe/object_recipe.h"
#include "world/object_pass.h"

namespace acre {

const char* refusalName(Refusal refusal) {
  static constexpr const char* kNames[kRefusals] = {"", "outside the world", "in a wall",
      "near another kind", "not by another kind", "biome", "under water", "altitude",
      "distance from water", "distance from a wall", "field", "amount", "no such cave", "ground",
      "slope", "uneven ground", "near its own kind"};
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

const ObjectPiece* pieceOf(const Recipe& recipe, const PlacedObject& object) {
  const ObjectKind& kind = recipe.objects->kinds[object.kind];
  const std::string& own =
      object.choice == PlacedObject::kPlain ? kind.piece : kind.what[object.choice].piece;
  const std::string& id = own.empty() ? kind.piece : own;
  for (const ObjectPiece& piece : recipe.objects->pieces)
    if (piece.id == id) return &piece;
  return nullptr;
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
