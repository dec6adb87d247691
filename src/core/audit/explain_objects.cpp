// What is told of objects: whose the cell is, what stands there, and what was refused.
#include <fmt/format.h>

#include <algorithm>

#include "audit/explainer.h"

namespace acre {

/// Whose cell it is.
void Explainer::ofObject() const {
  const PlumbPart& of = *p_.part;
  const Part object = part("object");
  value("kind", of.kind);
  value("what", of.what);
  value("id", of.id);
  if (!of.grown) value("piece", of.piece);
  value("made", of.made);
  value("others", of.others);
  value("pointer", of.pointer);
  std::string note = of.made == "open" ? std::string() : "in the place of " + of.made;
  if (of.others > 0)
    note += fmt::format(
        "{}before {} other{}", note.empty() ? "" : ", ", of.others, of.others == 1 ? "" : "s");
  row(StageId::Objects, "part of " + of.name, p_.materialName, note, of.pointer, Decides);
  if (of.grown) tree(of);
}

/// How the tree has grown that a cell is a part of.
void Explainer::tree(const PlumbPart& of) const {
  const PlumbTree& grown = *of.grown;
  const Part tree = part("tree");
  value("style", of.tree);
  value("leaf", grown.leaf);
  value("variant", grown.variant);
  value("turn", grown.turn);
  value("mirrored", grown.mirrored);
  value("wind", grown.wind);
  row(StageId::Objects, grown.leaf ? "a leaf of" : "wood of",
      fmt::format("{}, variant {}", of.tree, grown.variant),
      fmt::format("turned by {} quarters{}, wind {} of 3", grown.turn,
          grown.mirrored ? ", mirrored" : "", grown.wind),
      of.pointer, Folds);
}

/// What stands here, and what was refused.
void Explainer::objects() const {
  const Part all = list("objects");
  for (const PlumbObject& one : p_.objects) {
    const Part object = member();
    value("kind", one.kind);
    value("what", one.what);
    value("id", one.id);
    value("refusal", one.refusal);
    value("forced", one.forced);
    value("turn", one.turn);
    value("reach", one.reach);
    value("pointer", one.pointer);
    if (one.y) value("y", *one.y);
    if (one.priority) value("priority", *one.priority);
    if (one.draw) value("draw", *one.draw);
    value("beaten", one.beaten);
    if (one.beatenBy) value("beatenBy", std::array{one.beatenBy->x, one.beatenBy->z});
    conditions(one);
    if (one.stands) {
      value("at", std::array{one.stands->x, one.stands->z});
      row(StageId::Objects, "reaches here", one.name,
          fmt::format("stands at {}, {}", one.stands->x, one.stands->z), one.pointer, Folds);
    } else if (one.refusal.empty())
      row(StageId::Objects, "stands here",
          one.y ? fmt::format("{}, y {}", one.name, *one.y) : one.name,
          one.forced.empty() ? fmt::format("depends on {} cells about", one.reach)
                             : fmt::format("forced: {} refuses it here", one.forced),
          one.pointer);
    else
      row(StageId::Objects, "no " + one.name, one.refusal,
          one.beatenBy ? fmt::format("one stands at {}, {}", one.beatenBy->x, one.beatenBy->z)
                       : std::string(),
          one.pointer, Folds);
    if (one.refusal.empty() && !one.stands) contest(one);
    for (const PlumbObject::Condition& of : one.conditions)
      row(StageId::Objects, fmt::format("{}: {}", one.name, of.name),
          fmt::format("{:.4g}", of.value),
          of.from && of.to ? fmt::format("{:g} to {:g}", *of.from, *of.to)
          : of.from        ? fmt::format("{:g} or more", *of.from)
                           : fmt::format("{:g} or less", *of.to),
          of.pointer, Folds);
  }
}

void Explainer::conditions(const PlumbObject& one) const {
  const Part all = list("conditions");
  for (const PlumbObject::Condition& of : one.conditions) {
    const Part condition = member();
    value("name", of.name);
    value("value", of.value);
    if (of.from) value("from", *of.from);
    if (of.to) value("to", *of.to);
    value("pointer", of.pointer);
  }
}

/// How it came to stand, and what was drawn of its list.
void Explainer::contest(const PlumbObject& one) const {
  if (one.priority)
    row(StageId::Objects, one.name + ": order", fmt::format("{:.4f}", *one.priority),
        one.beaten > 0 ? fmt::format("it keeps off {} of its kind", one.beaten)
                       : "it keeps off none of its kind",
        one.pointer, Folds);
  if (one.draw)
    row(StageId::Objects, one.name + ": drawn", one.what.empty() ? "nothing fits here" : one.what,
        fmt::format("{:.4f} of the weights", *one.draw), one.pointer, Folds);
}

/// What lies on the cell, group by group.
void Explainer::tiles() const {
  const Part all = list("tiles");
  for (const PlumbTile& one : p_.tiles) {
    const Part tile = member();
    value("group", one.group);
    value("set", one.set);
    value("mask", one.mask);
    value("pointer", one.pointer);
    if (one.number < 0) {
      row(StageId::Tiles, "tile of " + one.name, "none", "the cell is not inside", one.pointer,
          Folds);
      continue;
    }
    value("case", one.number);
    value("variant", one.variant);
    value("value", one.value);
    value("turn", one.turn);
    value("mirrored", one.mirrored);
    std::string note = one.mask.empty() ? one.method : one.method + " " + one.mask;
    if (one.variant > 0) note += fmt::format(", variant {}", one.variant);
    if (one.turn > 0) note += fmt::format(", turned by {} quarters", one.turn);
    if (one.mirrored) note += ", mirrored";
    // Full ground under another group is not seen.
    const bool later = std::any_of(&one + 1, p_.tiles.data() + p_.tiles.size(),
        [](const PlumbTile& other) { return other.number >= 0; });
    const bool full = one.mask.find('0') == std::string::npos;
    row(StageId::Tiles, "tile of " + one.name, fmt::format("case {}", one.number), note,
        one.pointer, later && full ? Folds : Plain);
  }
}

}  // namespace acre
