#include <fmt/format.h>

#include <algorithm>

#include "recipe/describe.h"
#include "recipe/validate.h"

namespace acre {

const Words& wordsOf(Edge::Kind) {
  static const Words words = {"hard", "dithered", "noisy"};
  return words;
}
const Words& wordsOf(Ore::Shape) {
  static const Words words = {"pocket", "vein"};
  return words;
}

void describe(Visitor& v, Edge& edge) {
  const MembersOf m(v, edge, "edge");
  m(&Edge::kind, "kind", "Edge", "How a band passes into the next above.", must());
  m(&Edge::width, "width", "Width", "Altitudes over which it passes.",
      cells(limits::edgeWidth, 0.1));
  m.either(&Edge::squared, {"linear", "squared"}, "slope", "Odds",
      "Of dithered edges: how the odds rise.", About{}.when(edge.kind == Edge::Kind::Dithered));
  m(&Edge::feature, "feature", "Feature width", "Of noisy edges.",
      cells(limits::width).when(edge.kind == Edge::Kind::Noisy));
}

void describe(Visitor& v, Band& band) {
  const MembersOf m(v, band, "band");
  m.id();
  m(&Band::below, "below", "Below",
      "The altitude where it ends, which belongs to the band above; every band but the last has "
      "one.",
      sparse(cells(limits::altitude)));
  m(&Band::material, "material", "Material", "Null: unassigned.", must().of(Role::Material));
  m(&Band::edge, "edge", "Edge", "Of its upper end; hard without one.",
      About{}.when(band.edge.kind != Edge::Kind::Hard));
}

void bandRules(Ruling& rules, const std::string& member, const std::vector<Band>& bands) {
  for (size_t i = 0; i < bands.size(); ++i) {
    const std::string at = fmt::format("{}/{}", member, i);
    const bool last = i + 1 == bands.size();
    if (last && bands[i].below)
      rules.refuse(at + "/below", "the last band has an upper end, so higher ground has no band",
          "no \"below\" in the last band");
    if (!last && !bands[i].below)
      rules.refuse(at, "this band has no upper end but others follow",
          "\"below\" in every band but the last");
  }
}

void describe(Visitor& v, SlopeBand& slope) {
  const MembersOf m(v, slope, "slope");
  m.id();
  m(&SlopeBand::from, "from", "From", "Cells of rise per cell.", must(number(limits::slope, 0.02)));
  m(&SlopeBand::above, "above", "Above", "From this altitude on.", sparse(cells(limits::altitude)));
  m(&SlopeBand::below, "below", "Below", "Up to this altitude.", sparse(cells(limits::altitude)));
  m(&SlopeBand::material, "material", "Material", "Null: unassigned.", must().of(Role::Material));
}

void describe(Visitor& v, Overhang& overhang) {
  const MembersOf m(v, overhang, "overhang");
  m.on(&Overhang::on);
  m(&Overhang::reach, "reach", "Reach", "Blocks above and below the surface that may change.",
      must(blocks(limits::overhangReach, 0.5)));
  m(&Overhang::amount, "amount", "Amount", "How far the noise pushes.",
      must(blocks(limits::overhangAmount, 0.5)));
  m(&Overhang::noise, "noise", "Noise", "In three dimensions.", must());
  m(&Overhang::mask, "mask", "Mask", "Where it acts.", sparse());
}

void describe(Visitor& v, DepthLayer& layer) {
  const MembersOf m(v, layer, "depthLayer");
  m.id();
  m(&DepthLayer::material, "material", "Material", "`surface`: as the bands say; null: unassigned.",
      must().of(Role::Ground));
  m(&DepthLayer::thickness, "thickness", "Thickness", "Whole blocks of it and what the field adds.",
      must(blocks(limits::layerThickness, 0.1)));
  m(&DepthLayer::field, "field", "Field", "That varies the thickness.", sparse().of(Role::Field));
  m(&DepthLayer::vary, "vary", "Vary", "Blocks per unit of the field.",
      blocks(limits::layerVary, 0.1).when(!layer.field.empty()));
}

void layerRules(Ruling& rules, const std::string& member, const std::vector<DepthLayer>& layers) {
  if (const int64_t deepest = deepestOf(rules.recipe(), layers); deepest > limits::layersDeep)
    rules.refuse(member, fmt::format("the layers can reach {} blocks down", deepest),
        fmt::format("at most {} for all together", limits::layersDeep));
}

void describe(Visitor& v, Rock& rock) {
  const MembersOf m(v, rock, "rock");
  m(&Rock::top, "top", "Top", "Altitude of the first bed's upper side.",
      must(blocks(limits::altitude, 1)));
  m(&Rock::bend, "bend", "Bend", "Field that lifts all beds.", sparse().of(Role::Field));
  m(&Rock::lift, "lift", "Lift", "Blocks per unit of that field.",
      blocks(limits::altitude, 0.5).when(!rock.bend.empty()));
  v.list(
      said("beds", "Beds", "From the top down; the last reaches down without end.",
          must().upTo(limits::beds)),
      rock.beds.size(),
      [&](size_t count) {
        if (count != rock.beds.size()) rock.beds.resize(count);
      },
      [&](size_t i) {
        v.object({}, [&] {
          const MembersOf bed(v, rock.beds[i], "bed");
          bed.id();
          bed(&Bed::material, "material", "Material", "Null: unassigned.",
              must().of(Role::Material));
          const bool last = i + 1 == rock.beds.size();
          if (last && v.fills()) return;
          bed(&Bed::thickness, "thickness", "Thickness", "Of every bed but the last.",
              blocks(limits::bedThickness, 0.5)
                  .there(last ? Presence::Usual : Presence::Must)
                  .when(!last));
        });
      });
}

void describe(Visitor& v, Ore& ore) {
  const MembersOf m(v, ore, "ore");
  m.id();
  m.on(&Ore::on, true);
  m(&Ore::material, "material", "Material", "Of the bodies.", must().of(Role::Listed));
  m(&Ore::share, "share", "Share",
      "Of its host rock within the vertical range; all ores together at most 0.9.",
      must(share(0.0005, limits::oreShare)));
  m(&Ore::shape, "shape", "Shape", "Of the bodies.", must());
  m(&Ore::radius, "radius", "Radius", "Of a pocket, or of a vein at its thickest.",
      must(blocks(limits::oreRadius, 0.1)));
  m(&Ore::length, "length", "Length", "Of a vein.",
      blocks(limits::oreLength, 1).when(ore.shape == Ore::Shape::Vein));
  m(&Ore::hosts, "hosts", "Hosts", "Materials of beds that it replaces; none: all.", sparse());
  m(&Ore::curve, "curve", "Curve", "How much of it lies at which altitude, in relation.",
      sparse(number(limits::oreCurve)));
  v.rule([&](Ruling& rules) {
    const auto& beds = rules.recipe().rock.beds;
    for (size_t i = 0; i < ore.hosts.size(); ++i)
      if (std::none_of(beds.begin(), beds.end(),
              [&](const Bed& bed) { return bed.material == ore.hosts[i]; }))
        rules.refuse(fmt::format("hosts/{}", i),
            fmt::format("no bed is of \"{:.80}\"", ore.hosts[i]), "the material of a bed of rock");
  });
}

void describe(Visitor& v, SeaWater& water) {
  MembersOf(v, water, "water")(&SeaWater::material, "material", "Material",
      "Of what is open below the sea level.", must().of(Role::Listed));
}

}  // namespace acre
