#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "recipe/describe.h"
#include "recipe/tile_cases.h"
#include "recipe/tile_recipe.h"

namespace acre {

const Words& wordsOf(TileMethod) {
  static const Words kMethods = {"corners", "neighbours", "sides", "plain"};
  return kMethods;
}
const Words& wordsOf(TileTurns) {
  static const Words kTurns = {"none", "quarter", "mirrored"};
  return kTurns;
}
const Words& wordsOf(TileRim) {
  static const Words kRims = {"inside", "outside", "same"};
  return kRims;
}
const Words& wordsOf(TileEdge) {
  static const Words kEdges = {"straight", "round", "rough"};
  return kEdges;
}
const Words& wordsOf(TileAnchor) {
  static const Words kAnchors = {"upper left", "centre"};
  return kAnchors;
}

namespace {

void weightRules(Ruling& rules, const std::string& key, const std::vector<int32_t>& weights) {
  if (weights.empty() ||
      std::all_of(weights.begin(), weights.end(), [](int32_t w) { return w == 0; }))
    rules.refuse(key, "no variant has a weight", "at least one of 1 to 1000");
}

void orderRules(Ruling& rules, const TileSet& set) {
  const TileCases cases(set.method, set.turns);
  const int most = cases.drawings() * mostVariants(set);
  std::map<int32_t, size_t> met;
  for (size_t n = 0; n < set.picture->order.size(); ++n) {
    const int32_t drawing = set.picture->order[n];
    if (drawing >= most)
      rules.refuse(fmt::format("picture/order/{}", n),
          fmt::format("{} where the set has {} drawings", drawing, most),
          fmt::format("-1 to {}", most - 1));
    else if (const auto [first, fresh] = met.emplace(drawing, n); !fresh && drawing >= 0)
      rules.refuse(fmt::format("picture/order/{}", n),
          fmt::format("{} lies at place {} already", drawing, first->second), "each once");
  }
}

}  // namespace

void describe(Visitor& v, TileDrawing& drawing) {
  const MembersOf m(v, drawing, "tileDrawing");
  m(&TileDrawing::size, "size", "Size", "Pixels a side.",
      number(limits::tileSize, 1, "pixels").wholeOnly().unkeyed());
  m(&TileDrawing::inside, "inside", "Inside", "Colour of the ground.", About{}.unkeyed());
  m(&TileDrawing::edge, "edge", "Edge", "Colour of the line around it.", About{}.unkeyed());
  m(&TileDrawing::style, "style", "Style", "How its corners go.", sparse().unkeyed());
  m(&TileDrawing::width, "width", "Width", "Of the line.",
      number(limits::tileEdge, 1, "pixels").wholeOnly().unkeyed());
  m(&TileDrawing::joined, "joined", "Opposite corners joined",
      "Where only two opposite corners are inside, ground goes on between them.",
      sparse().unkeyed());
}

void describe(Visitor& v, TilePicture& picture) {
  const MembersOf m(v, picture, "tilePicture");
  m(&TilePicture::file, "file", "File",
      "PNG, from where the world's file is, or the picture itself as data:image/png;base64,…",
      must().of(Role::File).unkeyed());
  m(&TilePicture::columns, "columns", "Columns",
      "Tiles side by side; their size is the picture's width over it.",
      must(number(limits::tileColumns, 1).wholeOnly()).unkeyed());
  m(&TilePicture::cell, "cell", "Cell",
      "Pixels that a cell takes, where tiles are larger; 0: as many as a tile.",
      sparse(number(limits::tileCell, 1, "pixels").wholeOnly()).unkeyed());
  m(&TilePicture::anchor, "anchor", "Anchor", "Where a larger tile lies on its cell.",
      sparse().unkeyed());
  m(&TilePicture::order, "order", "Order",
      "The drawing at each place, row by row, -1: none; without it they lie in order.",
      sparse(number(limits::tilePlace).wholeOnly()).upTo(limits::tilePictures).unkeyed());
  v.rule([&](Ruling& rules) {
    if (picture.file.empty()) rules.refuse("file", "no file is named", "a PNG file");
  });
}

void describe(Visitor& v, TileCaseWeights& weights) {
  const MembersOf m(v, weights, "tileCase");
  m(&TileCaseWeights::number, "case", "Case", "Its number.",
      must(number(Range{0, 46}).wholeOnly()));
  m(&TileCaseWeights::weights, "weights", "Weights", "Of its variants.",
      must(number(limits::tileWeight).wholeOnly()).upTo(limits::tileVariants));
}

void describe(Visitor& v, TileSet& set) {
  const MembersOf m(v, set, "tileSet");
  m.idAndName();
  m(&TileSet::method, "method", "Method",
      "Between four corners, or by a cell's eight neighbours, its four sides, or nothing.", must());
  m(&TileSet::turns, "turns", "Turns", "In how many ways one drawing is laid.", sparse());
  m(&TileSet::weights, "weights", "Weights", "Of the variants of every case.",
      sparse(number(limits::tileWeight).wholeOnly()).upTo(limits::tileVariants));
  m(&TileSet::cases, "cases", "Cases", "Those whose variants have other weights.",
      sparse().upTo(47));
  m(&TileSet::drawn, "drawn", "Drawn", "How it is drawn where it has no picture.",
      sparse().unkeyed());
  m(&TileSet::picture, "picture", "Picture", "Its tiles side by side.", sparse().unkeyed());
  m(&TileSet::without, "without", "Without", "Drawings that are left out, for trial.",
      sparse(number(Range{0, 46}).wholeOnly()).upTo(47).unkeyed());
  v.rule([&](Ruling& rules) {
    weightRules(rules, "weights", set.weights);
    const int count = TileCases::countOf(set.method);
    std::set<int32_t> met;
    for (size_t n = 0; n < set.cases.size(); ++n) {
      const TileCaseWeights& one = set.cases[n];
      if (one.number >= count)
        rules.refuse(fmt::format("cases/{}/case", n),
            fmt::format("there is no case {}", one.number), fmt::format("0 to {}", count - 1));
      if (!met.insert(one.number).second)
        rules.refuse(fmt::format("cases/{}/case", n),
            fmt::format("case {} is listed twice", one.number), "each once");
      weightRules(rules, fmt::format("cases/{}/weights", n), one.weights);
    }
    if (set.picture) orderRules(rules, set);
  });
}

void describe(Visitor& v, TileGroup& group) {
  const MembersOf m(v, group, "tileGroup");
  m.idAndName();
  m.on(&TileGroup::on);
  m(&TileGroup::materials, "materials", "Materials", "Those with the border around them.",
      must().of(Role::Listed).upTo(limits::materials));
  m(&TileGroup::set, "set", "Set", "Id of the set that it is drawn with.", must().of(Role::Tag));
  m(&TileGroup::rim, "rim", "Rim", "What lies beyond the world's bounds.", sparse());
}

void describe(Visitor& v, Tiling& tiling) {
  const MembersOf m(v, tiling, "tiles");
  m.on(&Tiling::on);
  m(&Tiling::sets, "sets", "Sets", "Of tiles.", sparse().upTo(limits::tileSets));
  m(&Tiling::groups, "groups", "Groups",
      "From the lowest up; each is drawn over all before it, whose ground goes on below.",
      sparse().upTo(limits::tileGroups));
  v.rule([&](Ruling& rules) {
    std::set<std::string> sets;
    for (const TileSet& set : tiling.sets) sets.insert(set.id);
    std::map<std::string, std::string> taken;
    for (size_t k = 0; k < tiling.groups.size(); ++k) {
      const TileGroup& group = tiling.groups[k];
      if (!sets.contains(group.set))
        rules.refuse(fmt::format("groups/{}/set", k),
            fmt::format("there is no set \"{:.80}\"", group.set), "the id of one of /tiles/sets");
      if (group.materials.empty())
        rules.refuse(fmt::format("groups/{}/materials", k), "no material", "at least one");
      for (size_t n = 0; n < group.materials.size(); ++n)
        if (const auto [first, fresh] = taken.emplace(group.materials[n], group.id); !fresh)
          rules.refuse(fmt::format("groups/{}/materials/{}", k, n),
              fmt::format("\"{:.80}\" is one of group \"{:.80}\" already", group.materials[n],
                  first->second),
              "each material in one group");
    }
  });
}

}  // namespace acre
