#include <fmt/format.h>

#include <set>

#include "recipe/describe.h"
#include "recipe/object_recipe.h"

namespace acre {
namespace {

void spanRule(Ruling& rules, const char* key, const Span& span) {
  if (span.low && span.high && *span.low > *span.high)
    rules.refuse(
        key, fmt::format("{} to {} holds nothing", *span.low, *span.high), "the lower end first");
}

/// What a drawing of a piece does not say right.
void pieceRules(Ruling& rules, const ObjectPiece& piece) {
  std::set<char> known = {ObjectPiece::kLeft, ObjectPiece::kOpened};
  for (size_t n = 0; n < piece.signs.size(); ++n) {
    const std::string& sign = piece.signs[n].sign;
    if (sign.size() != 1 || sign[0] <= ' ' || sign[0] > '~' || !known.insert(sign[0]).second)
      rules.refuse(fmt::format("signs/{}/sign", n),
          fmt::format("\"{:.20}\" is no sign of its own", sign),
          "one character from ! to ~ that is neither . nor _ nor another's");
  }
  if (piece.layers.empty() || piece.layers[0].rows.empty() || piece.layers[0].rows[0].empty())
    return rules.refuse("layers", "an empty drawing", "at least one layer with a row with a sign");
  const size_t wide = piece.layers[0].rows[0].size(), rows = piece.layers[0].rows.size();
  if (wide > limits::pieceSide)
    return rules.refuse("layers/0/rows/0", fmt::format("{} cells are too wide", wide),
        fmt::format("at most {}", limits::pieceSide));
  bool drawn = false;
  for (size_t k = 0; k < piece.layers.size(); ++k) {
    const std::vector<std::string>& layer = piece.layers[k].rows;
    if (layer.size() != rows)
      return rules.refuse(fmt::format("layers/{}/rows", k),
          fmt::format("{} rows, where the first layer has {}", layer.size(), rows),
          "layers all as large as the first");
    for (size_t j = 0; j < rows; ++j) {
      const std::string at = fmt::format("layers/{}/rows/{}", k, j);
      if (layer[j].size() != wide)
        return rules.refuse(at,
            fmt::format("{} signs, where the first row has {}", layer[j].size(), wide),
            "rows all as long as the first");
      for (const char sign : layer[j]) {
        drawn = drawn || sign != ObjectPiece::kLeft;
        if (!known.contains(sign))
          return rules.refuse(at, fmt::format("\"{}\" is not among the signs", sign),
              "a sign of the piece, . or _");
      }
    }
  }
  if (!drawn)
    return rules.refuse("layers", "the drawing changes nothing", "a sign other than . in it");
  if (piece.anchor && static_cast<size_t>(piece.anchor->x) >= wide)
    rules.refuse("anchor/x", fmt::format("{} lies beside the drawing", piece.anchor->x),
        fmt::format("0 to {}", wide - 1));
  if (piece.anchor && static_cast<size_t>(piece.anchor->z) >= rows)
    rules.refuse("anchor/z", fmt::format("{} lies beside the drawing", piece.anchor->z),
        fmt::format("0 to {}", rows - 1));
}

}  // namespace

const Words& wordsOf(ObjectSign) {
  static const Words kSigns = {"dot", "ring", "cross", "tuft", "crown", "stone"};
  return kSigns;
}

const Words& wordsOf(ObjectStand) {
  static const Words kStands = {"ground", "cave floor", "cave ceiling"};
  return kStands;
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
  m(&ObjectChoice::piece, "piece", "Piece", "What it is made of; none: as its kind.", sparse());
  m(&ObjectChoice::tree, "tree", "Tree", "The style that it has grown in; none: as its kind.",
      sparse());
  m(&ObjectChoice::attributes, "attributes", "Attributes", "For whoever is told of it.",
      sparse().unkeyed().upTo(limits::objectAttributes));
  m(&ObjectChoice::biomes, "biomes", "In biomes", "It is drawn in these alone; none: in all.",
      sparse().of(Role::Biome).upTo(limits::biomes));
  m(&ObjectChoice::floors, "floors", "On floors",
      "Of a level, from and to, on which it is drawn; null: any.",
      sparse(number(limits::floorNumber, 1)).orNull());
  m(&ObjectChoice::field, "field", "Field", "That decides where it is drawn; none: everywhere.",
      sparse().of(Role::Field));
  m(&ObjectChoice::within, "within", "Within", "Values of that field, from and to; null: any.",
      sparse(number(limits::altitude)).orNull());
  v.rule([&](Ruling& rules) {
    for (const auto& [key, span] : {std::pair("floors", &of.floors), {"within", &of.within}})
      spanRule(rules, key, *span);
  });
}

void describe(Visitor& v, ObjectAttribute& of) {
  const MembersOf m(v, of, "objectAttribute");
  m(&ObjectAttribute::name, "name", "Name", "Of the attribute.",
      must().unkeyed().of(Role::Name).upTo(limits::nameBytes));
  m(&ObjectAttribute::value, "value", "Value", "Of it, as text.",
      must().unkeyed().of(Role::Name).upTo(limits::nameBytes));
}

void describe(Visitor& v, PieceLayer& layer) {
  const MembersOf m(v, layer, "pieceLayer");
  m(&PieceLayer::rows, "rows", "Rows",
      "Signs from west to east, the northern row first; . leaves what is there, _ opens it.",
      must().upTo(limits::pieceSide));
}

void describe(Visitor& v, PieceSign& sign) {
  const MembersOf m(v, sign, "pieceSign");
  m(&PieceSign::sign, "sign", "Sign", "One character.", must());
  m(&PieceSign::material, "material", "Material", "That it stands for.", must().of(Role::Listed));
}

void describe(Visitor& v, PieceAnchor& anchor) {
  const MembersOf m(v, anchor, "pieceAnchor");
  m(&PieceAnchor::x, "x", "Column", "From the west.", must(cells(limits::pieceCell, 1)));
  m(&PieceAnchor::z, "z", "Row", "From the north.", must(cells(limits::pieceCell, 1)));
}

void describe(Visitor& v, ObjectPiece& piece) {
  const MembersOf m(v, piece, "objectPiece");
  m.idAndName();
  m(&ObjectPiece::layers, "layers", "Layers", "From the lowest up, all as large as the first.",
      must().upTo(limits::pieceSide));
  m(&ObjectPiece::signs, "signs", "Signs", "What they stand for.",
      sparse().upTo(limits::pieceSigns));
  m(&ObjectPiece::anchor, "anchor", "Anchor",
      "The cell of the drawing that stands in its object's; none: the middle.", sparse().orNull());
  m(&ObjectPiece::sink, "sink", "Sunk", "Levels that lie in the ground.",
      sparse(blocks(limits::pieceDepth, 1)));
  m(&ObjectPiece::fill, "fill", "Filled under", "Blocks under the lowest level that are filled up.",
      sparse(blocks(limits::pieceDepth, 1)));
  m(&ObjectPiece::follow, "follow", "Follows the ground", "Every column stands on its own ground.",
      sparse());
  m(&ObjectPiece::cuts, "cuts", "Cuts in",
      "It takes the place of any block; else that of open ones and of liquids alone.", sparse());
  m(&ObjectPiece::over, "over", "Over", "Materials whose place it takes besides.",
      sparse().of(Role::Listed).upTo(limits::materials));
  m(&ObjectPiece::turns, "turns", "Turned", "By quarters, as its object is.", sparse());
  m(&ObjectPiece::mirror, "mirror", "Mirrored", "Every second one.", sparse());
  m(&ObjectPiece::cover, "cover", "Cover", "Wherever two objects meet it gives way.", sparse());
  v.rule([&](Ruling& rules) { pieceRules(rules, piece); });
}

void describe(Visitor& v, ObjectFooting& of) {
  const MembersOf m(v, of, "objectFooting");
  m(&ObjectFooting::radius, "radius", "Radius", "Cells to each side that are looked at.",
      must(cells(limits::objectFooting, 1)));
  m(&ObjectFooting::rise, "rise", "Rise", "That the highest may lie above the lowest.",
      must(cells({0, limits::altitude.high}, 0.5)));
}

void describe(Visitor& v, ObjectNoise& of) {
  const MembersOf m(v, of, "objectNoise");
  m(&ObjectNoise::process, "process", "Process", "Of the level, that makes walls of noise.",
      must().of(Role::Walls));
  m(&ObjectNoise::within, "within", "Within", "Values of that noise, from and to; null: any.",
      sparse(number(limits::altitude, 0.05)).orNull());
  v.rule([&](Ruling& rules) { spanRule(rules, "within", of.within); });
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
  m(&ObjectKind::stands, "stands", "Stands on", "The ground, or the floor or ceiling of a cave.",
      sparse());
  m(&ObjectKind::caves, "caves", "In caves",
      "Cave kinds that line what they stand on or hang from; none: any.",
      sparse().of(Role::Cave).upTo(limits::caveParts));
  m(&ObjectKind::ground, "ground", "Ground", "Materials that they stand on; none: any.",
      sparse().of(Role::Listed).upTo(limits::materials));
  m(&ObjectKind::altitude, "altitude", "Altitude", "Cells above the sea, from and to; null: any.",
      sparse(cells(limits::altitude, 1)).orNull());
  m(&ObjectKind::slope, "slope", "Slope", "Rise per cell, from and to; null: any.",
      sparse(number(limits::objectSlope, 0.05)).orNull());
  m(&ObjectKind::shore, "shore", "From water", "Cells from fresh water, from and to; null: any.",
      sparse(cells(limits::shore, 1)).orNull());
  m(&ObjectKind::wall, "wall", "From a wall",
      "Cells from the nearest wall of a level or a cave, from and to; null: any.",
      sparse(cells(limits::wallReach, 1)).orNull());
  m(&ObjectKind::mouth, "mouth", "From a mouth",
      "Cells from the rim of the nearest mouth of a tunnel system, from and to; null: any.",
      sparse(cells(limits::mouthReach, 1)).orNull());
  m(&ObjectKind::floors, "floors", "By floor",
      "From the floor of a level to a share of the density; none: all of it.",
      sparse(number(limits::share)));
  m(&ObjectKind::wet, "wet", "Under water", "Also under the sea, lakes and rivers.", sparse());
  m(&ObjectKind::field, "field", "Field", "That decides; none: nothing but the rest.",
      sparse().of(Role::Field));
  m(&ObjectKind::within, "within", "Within", "Values of the field, from and to; null: any.",
      sparse(number(limits::altitude)).orNull());
  m(&ObjectKind::noise, "noise", "Noise of walls",
      "What the noise of a level's walls has there, at limits of its own.", sparse().orNull());
  m(&ObjectKind::footing, "footing", "Even ground", "How even the ground about the place is.",
      sparse().orNull());
  m(&ObjectKind::piece, "piece", "Piece", "What they are made of; none: they have no cells.",
      sparse());
  m(&ObjectKind::tree, "tree", "Tree", "The style that they have grown in, in place of a piece.",
      sparse());
  m(&ObjectKind::what, "what", "What", "One of these is drawn; none: the kind itself.",
      sparse().upTo(limits::objectChoices));
  m(&ObjectKind::attributes, "attributes", "Attributes", "For whoever is told of them.",
      sparse().unkeyed().upTo(limits::objectAttributes));
  v.rule([&](Ruling& rules) {
    double weights = 0;
    for (const ObjectChoice& one : kind.what) weights += one.weight;
    if (!kind.what.empty() && !(weights > 0))
      rules.refuse("what", "nothing is ever drawn", "a weight above 0 for one of them");
    if (kind.must && !kind.amount.empty())
      rules.refuse(
          "amount", "one in every square is neither more nor less", "no amount, or no \"must\"");
    const std::pair<const char*, const Span*> spans[] = {{"altitude", &kind.altitude},
        {"slope", &kind.slope}, {"shore", &kind.shore}, {"wall", &kind.wall},
        {"mouth", &kind.mouth}, {"within", &kind.within}};
    for (const auto& [key, span] : spans) spanRule(rules, key, *span);
  });
}

void describe(Visitor& v, Objects& objects) {
  const MembersOf m(v, objects, "objects");
  m.on(&Objects::on);
  m(&Objects::pieces, "pieces", "Pieces", "Cells that objects are made of.",
      sparse().upTo(limits::objectPieces));
  m(&Objects::trees, "trees", "Trees", "Styles that objects grow in.",
      sparse().upTo(limits::treeStyles));
  m(&Objects::kinds, "kinds", "Kinds", "In order of precedence.",
      sparse().upTo(limits::objectKinds));
  v.rule([&](Ruling& rules) {
    std::set<std::string> pieces = {""}, trees = {""};
    for (const ObjectPiece& piece : objects.pieces) pieces.insert(piece.id);
    for (const TreeStyle& style : objects.trees) trees.insert(style.id);
    const auto checkMade = [&](const std::string& at, const auto& of) {
      if (!pieces.contains(of.piece))
        rules.refuse(at + "/piece", fmt::format("there is no piece \"{:.80}\"", of.piece),
            "the id of one of /objects/pieces");
      if (!trees.contains(of.tree))
        rules.refuse(at + "/tree", fmt::format("there is no style \"{:.80}\"", of.tree),
            "the id of one of /objects/trees");
      if (!of.piece.empty() && !of.tree.empty())
        rules.refuse(at + "/tree", "it is made of a piece already", "no style, or no piece");
    };
    std::set<std::string> earlier;
    for (size_t k = 0; k < objects.kinds.size(); ++k) {
      const ObjectKind& kind = objects.kinds[k];
      checkMade(fmt::format("kinds/{}", k), kind);
      for (size_t n = 0; n < kind.what.size(); ++n)
        checkMade(fmt::format("kinds/{}/what/{}", k, n), kind.what[n]);
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
