#include <fmt/format.h>

#include "recipe/describe.h"
#include "recipe/validate.h"

namespace acre {

const Words& wordsOf(ChartRules) {
  static const Words words = {"areas", "points"};
  return words;
}
const Words& wordsOf(Regions::Choice) {
  static const Words words = {"climate", "weights", "cells"};
  return words;
}

void describe(Visitor& v, Relief& relief) {
  const MembersOf m(v, relief, "relief");
  m(&Relief::factor, "factor", "Factor",
      "Of the height above the sea: below 1 flattens, above 1 steepens.",
      number(limits::reliefFactor, 0.05));
  m(&Relief::raise, "raise", "Raise", "Added, growing from the coast.", cells(limits::raise, 0.25));
  m(&Relief::rough, "rough", "Rough", "Amplitude of the roughness, growing from the coast.",
      cells(limits::raise, 0.1));
}

void describe(Visitor& v, IdealPoint& ideal) {
  const MembersOf m(v, ideal, "ideal");
  m(&IdealPoint::x, "x", "Ideal x", "Value of the chart's first field.",
      must(number(limits::altitude)));
  m(&IdealPoint::y, "y", "Ideal y", "Value of its second.", must(number(limits::altitude)));
  m(&IdealPoint::altitude, "altitude", "Altitude", "Above the sea; none: at home at any.",
      sparse(cells(limits::altitude)));
  m(&IdealPoint::weight, "weight", "Weight", "2 reaches twice as far.",
      sparse(number(limits::idealWeight)));
}

void describe(Visitor& v, Biome& biome) {
  const MembersOf m(v, biome, "biome");
  m.idAndName();
  m(&Biome::colour, "colour", "Colour", "On maps.", must().unkeyed());
  m(&Biome::tags, "tags", "Tags", "Words for whoever reads the data.",
      sparse().of(Role::Tag).upTo(limits::tags).unkeyed());
  m(&Biome::relief, "relief", "Relief", "What it does to the height.", sparse());
  // Bands and layers belong to the stage Strata.
  const About bands =
      said("bands", "Bands", "Of its own, or of another biome; none: the general ones.",
          sparse().upTo(limits::bands).unkeyed());
  if (biome.bands || !v.lent(bands, biome.bandsOf)) m(&Biome::bands, bands);
  const About layers =
      said("layers", "Layers", "By depth, of its own, or of another biome; none: the general ones.",
          sparse().upTo(limits::depthLayers).unkeyed());
  if (biome.layers || !v.lent(layers, biome.layersOf)) m(&Biome::layers, layers);
  m(&Biome::ideal, "ideal", "Ideal", "Where on the chart it is at its best.", sparse());
  m(&Biome::weight, "weight", "Weight", "Odds among the biomes that regions draw from.",
      sparse(number(limits::biomeWeight)));
  v.rule([&](Ruling& rules) {
    const auto borrowed = [&](const std::string& of, const char* what, auto member) {
      const Biome* other = of.empty() ? nullptr : biomeOf(rules.recipe(), of);
      if (of.empty() || (other && other->*member)) return;
      rules.refuse(fmt::format("{}/of", what),
          other ? fmt::format("\"{}\" has no {} of its own", of, what)
                : fmt::format("there is no biome \"{:.80}\"", of),
          fmt::format("the id of a biome with {} of its own", what));
    };
    borrowed(biome.bandsOf, "bands", &Biome::bands);
    borrowed(biome.layersOf, "layers", &Biome::layers);
    if (biome.layers) layerRules(rules, "layers", *biome.layers);
    if (!biome.bands) return;
    if (biome.bands->empty())
      rules.refuse("bands", "no band", "at least one, or no \"bands\": the general ones");
    bandRules(rules, "bands", *biome.bands);
  });
}

void describe(Visitor& v, Slice& slice) {
  const MembersOf m(v, slice, "slice");
  m.idAndName();
  m(&Slice::below, "below", "Below",
      "The base height where it ends, as in bands; all but the last have one.",
      sparse(cells(limits::altitude)));
  m(&Slice::biome, "biome", "Biome", "The whole slice is of it.", sparse().of(Role::Biome));
}

void describe(Visitor& v, Painting& painting) {
  const MembersOf m(v, painting, "painting");
  m(&Painting::columns, "columns", "Columns", "Cells along x.", must(number(limits::painting)));
  m(&Painting::biomes, "biomes", "Biomes", "That it is painted with.",
      must().of(Role::Biome).upTo(limits::biomes));
  v.rows(said("rows", "Rows",
             "From low y, each a text of runs, \"12*0 5*1 3\": 0 nothing, k the k-th of `biomes`.",
             must(number(limits::painting))),
      painting);
  v.rule([&](Ruling& rules) {
    if (!limits::painting.holds(painting.rows))
      return rules.refuse(
          "rows", fmt::format("{} rows", painting.rows), limits::painting.text() + " rows");
    const auto columns = static_cast<size_t>(painting.columns),
               expected = columns * static_cast<size_t>(painting.rows);
    if (painting.cells.size() != expected)
      rules.refuse("rows", fmt::format("{} cells", painting.cells.size()),
          fmt::format("{} cells", expected));
    for (size_t i = 0; i < painting.cells.size() && rules.ok(); ++i)
      if (painting.cells[i] > painting.biomes.size())
        rules.refuse(fmt::format("rows/{}", i / columns),
            fmt::format("there is no biome {}", painting.cells[i]),
            fmt::format("0 (nothing) to {} (of \"biomes\")", painting.biomes.size()));
  });
}

void describe(Visitor& v, Area& area) {
  const MembersOf m(v, area, "area");
  m.id();
  m(&Area::slices, "slices", "Slices", "Ids; none: all.", sparse().of(Role::Slice));
  m(&Area::painting, "painting", "Painting", "In place of a rectangle of one biome.", sparse());
  v.also(R"({"oneOf": [{"required": ["painting"]}, {"required": ["biome", "x", "y"]}]})");
  if (area.painting && v.fills()) return;
  const Presence presence = area.painting ? Presence::Usual : Presence::Must;
  const bool written = !area.painting;
  const auto span = [&](Span Area::*member, std::string_view key) {
    m(member, key, "Range", "[low, high), null: endless.",
        number(limits::altitude).there(presence).when(written).orNull());
  };
  m(&Area::biome, "biome", "Biome", "Of the rectangle.",
      About{}.there(presence).when(written).of(written ? Role::Biome : Role::Plain));
  span(&Area::x, "x");
  span(&Area::y, "y");
  v.rule([&](Ruling& rules) {
    if (area.painting) return;
    const Recipe& recipe = rules.recipe();
    const auto check = [&](const char* key, const Span& span, const AxisScale& axis) {
      if (span.low && span.high && !(*span.low < *span.high))
        rules.refuse(key, fmt::format("{} does not lie above {}", *span.high, *span.low),
            "[low, high) with low below high");
      else if ((span.low && *span.low >= axis.high) || (span.high && *span.high <= axis.low))
        rules.refuse(key,
            fmt::format("the area from {} to {} lies off the chart",
                span.low ? fmt::format("{}", *span.low) : "the beginning",
                span.high ? fmt::format("{}", *span.high) : "the end"),
            fmt::format("some of {} to {}", axis.low, axis.high));
    };
    check("x", area.x, scaleOf(recipe, recipe.biomes.x));
    check("y", area.y, scaleOf(recipe, recipe.biomes.y));
  });
}

void describe(Visitor& v, BorderWidths& border) {
  const MembersOf m(v, border, "border");
  m(&BorderWidths::chart, "chart", "On the chart", "Share of its width, where it decides per cell.",
      share(0.005, limits::chartBorder));
  m(&BorderWidths::ground, "ground", "On the ground",
      "Where regions decide; at most the size of a region.", cells(limits::groundBorder, 0.5));
  m(&BorderWidths::altitude, "altitude", "In altitude", "Across the ends of slices.",
      cells(limits::soft, 0.5));
}

void describe(Visitor& v, RegionWarp& warp) {
  const MembersOf m(v, warp, "regionWarp");
  m(&RegionWarp::cells, "cells", "Shift",
      "By which the noise, or the fields, are multiplied; 0: borders are straight.",
      must(cells(limits::warpCells, 0.5)));
  const bool named = !warp.x.empty() || !warp.z.empty();
  m(&RegionWarp::noise, "noise", "Noise", "Of both shifts, with a seed each.",
      About{}.when(!named));
  std::vector<std::string> fields;
  if (named) fields = {warp.x, warp.z};
  see(v,
      said("fields", "Fields", "Ids of two, in place of the noise.",
          About{}.when(named).of(Role::Field).upTo(2).atLeast(2)),
      fields);
  if (v.fills() && fields.size() == 2) warp.x = fields[0], warp.z = fields[1];
}

void describe(Visitor& v, Regions& regions) {
  const MembersOf m(v, regions, "regions");
  m.on(&Regions::on);
  m(&Regions::size, "size", "Size", "Side of a square: the root of the mean area of a region.",
      must(cells(limits::regionSize)));
  m(&Regions::jitter, "jitter", "Jitter",
      "0: sites in the middle of their squares; 1: anywhere in them.",
      number(limits::jitter, 0.01));
  m(&Regions::choice, "biome", "Biome",
      "`climate`: by the chart, with the values at the site and the altitude of the cell; "
      "`weights`: "
      "drawn; `cells`: by the chart cell by cell.");
  m(&Regions::warp, "warp", "Warp", "Shifts places before their region is looked up.");
  m(&Regions::islets, "islets", "Islets",
      "Pieces that the warp cut off, of at most so many cells across, go to the neighbour they "
      "touch "
      "most; for warps up to half a square, seen up to steps of four cells.",
      sparse(cells(limits::islets)));
}

namespace {

bool isClimate(const std::string& field) {
  return field == kTemperatureId || field == kMoistureId;
}

void describeAxis(Visitor& v, ChartAxis& axis, const About& about) {
  static const Words kClimate = {kTemperatureId, kMoistureId};
  size_t word = axis.field == kMoistureId ? 1 : 0;
  if (v.instead(about, kClimate, word, isClimate(axis.field))) {
    if (v.fills()) axis = {std::string(kClimate[word])};
    return;
  }
  v.object(about, [&] {
    const MembersOf m(v, axis, "chartAxis");
    m(&ChartAxis::field, "field", "Field", "Of the recipe.", must().of(Role::Field));
    m(&ChartAxis::low, "low", "Low", "Where the chart begins.", must(number(limits::altitude)));
    m(&ChartAxis::high, "high", "High", "Where it ends.", must(number(limits::altitude)));
    v.rule([&](Ruling& rules) {
      if (rules.recipe().biomes.on && !(axis.low < axis.high))
        rules.refuse("high", fmt::format("{} does not lie above low, {}", axis.high, axis.low),
            "a number above low");
    });
  });
}

/// The climate's own axes need it on.
void climateRule(Ruling& rules, const char* key, const ChartAxis& axis) {
  if (isClimate(axis.field) && !rules.recipe().climate.on)
    rules.refuse(fmt::format("chart/{}", key),
        fmt::format("the chart reads \"{}\", but the climate is off", axis.field),
        "a climate that is on, or another field");
}

}  // namespace

void describe(Visitor& v, Biomes& biomes) {
  const MembersOf m(v, biomes, "biomes");
  m.on(&Biomes::on);
  v.object(said("chart", "Chart", "Two fields over which biomes are laid."), [&] {
    v.begin("chart");
    m(&Biomes::rules, "rules", "Rules",
        "Areas in order, or ideal points; the other is kept, unused.");
    describeAxis(v, biomes.x,
        said("x", "First axis",
            "`temperature`, `moisture`, or any field with where its axis begins and ends."));
    describeAxis(v, biomes.y, said("y", "Second axis", "The same."));
    m(&Biomes::altitudeReach, "altitudeReach", "Altitude's reach",
        "Cells that count as much as the chart's width, for ideal points with an altitude.",
        cells(limits::altitudeReach));
  });
  m(&Biomes::slices, "slices", "Slices", "Of altitude, from low to high; none: one, endless.",
      sparse().upTo(limits::slices));
  m(&Biomes::areas, "areas", "Areas", "In order; the first that holds a value takes it.",
      About{}.upTo(limits::areas));
  m(&Biomes::list, "list", "Biomes", "All there are.", must().upTo(limits::biomes));
  m(&Biomes::border, "border", "Borders", "Where heights pass from biome to biome.", sparse());
  m(&Biomes::coast, "coast", "Coast",
      "Altitudes over which raise and rough grow to their full size.",
      sparse(cells(limits::soft, 0.5)));
  m(&Biomes::roughness, "roughness", "Roughness", "The noise of `rough`.", sparse());
  m(&Biomes::regions, "regions", "Regions", "Voronoi regions, one site in every square.", sparse());
  v.rule([&](Ruling& rules) {
    if (biomes.on) {
      climateRule(rules, "x", biomes.x);
      climateRule(rules, "y", biomes.y);
    }
    for (size_t i = 0; i < biomes.slices.size(); ++i) {
      const bool last = i + 1 == biomes.slices.size(), ends = biomes.slices[i].below.has_value();
      const std::string at = fmt::format("slices/{}", i);
      if (last && ends)
        rules.refuse(at + "/below",
            "the last slice has an upper end, so higher ground has no slice",
            "no \"below\" in the last slice");
      if (!last && !ends)
        rules.refuse(at, "this slice has no upper end but others follow",
            "\"below\" in every slice but the last");
    }
    if (biomes.regions.on && biomes.border.ground > biomes.regions.size)
      rules.refuse("border/ground",
          fmt::format("{} cells are wider than a region", biomes.border.ground),
          fmt::format("0 to {}, the size of the regions", biomes.regions.size));
  });
}

}  // namespace acre
