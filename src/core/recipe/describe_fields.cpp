#include <fmt/format.h>

#include <cmath>

#include "recipe/describe.h"
#include "recipe/validate.h"
#include "recipe/walk.h"

namespace acre {

const Words& wordsOf(Basis) {
  static const Words words = {"gradient", "value", "simplex", "cellular", "white", "gradient-2002"};
  return words;
}
const Words& wordsOf(Fractal) {
  static const Words words = {"single", "fbm", "ridged", "billowed"};
  return words;
}
const Words& wordsOf(CellularResult) {
  static const Words words = {"first", "second", "difference", "site"};
  return words;
}
const Words& wordsOf(Metric) {
  static const Words words = {"euclidean", "manhattan", "chebyshev"};
  return words;
}
const Words& wordsOf(Axis) {
  static const Words words = {"x", "z", "y"};
  return words;
}
const Words& wordsOf(PictureSource::Outside) {
  static const Words words = {"value", "edge", "repeat"};
  return words;
}
const Words& wordsOf(FreshWaterSource::Tells) {
  static const Words words = {"shore", "level", "mark"};
  return words;
}
const Words& wordsOf(Combine) {
  static const Words words = {"add", "multiply", "subtract", "minimum", "maximum", "smooth-minimum",
      "smooth-maximum", "mix", "replace"};
  return words;
}

namespace {

/// The kinds of layers: those of noise in the order of Basis, then the sources in theirs.
const Words& layerKinds() {
  static const Words words = [] {
    Words all = wordsOf(Basis{});
    all.insert(all.end(),
        {"constant", "ramp", "distance", "island", "picture", "field", "terrace", "fold", "rescale",
            "equalise", "latitude", "altitude", "water-distance", "walk", "fresh-water"});
    return all;
  }();
  return words;
}

size_t kindOf(const Source& source) {
  if (const auto* noise = std::get_if<NoiseSource>(&source))
    return static_cast<size_t>(noise->basis);
  return wordsOf(Basis{}).size() - 1 + source.index();
}

/// Everything about noise but its basis.
void describeNoise(Visitor& v, NoiseSource& noise, size_t basis) {
  if (v.fresh()) noise = {.basis = static_cast<Basis>(basis), .fractal = Fractal::Single};
  const MembersOf m(v, noise);
  m(&NoiseSource::fractal, "fractal", "Fractal",
      "How octaves are shaped and summed; without it there is a `single` one.");
  m(&NoiseSource::width, "width", "Feature width",
      "Cells from one feature to the next, in the first octave; every octave keeps within the "
      "range.",
      must(cells(limits::width)).ofFeatures());
  m(&NoiseSource::octaves, "octaves", "Octaves", "How many are summed, unless it is single.",
      number(limits::octaves, 1));
  m(&NoiseSource::lacunarity, "lacunarity", "Lacunarity",
      "How much finer each octave is than the one before.", number(limits::lacunarity, 0.02));
  m(&NoiseSource::gain, "gain", "Gain", "How strong each octave is, of the one before.",
      number(limits::gain, 0.01));
  m(&NoiseSource::rotate, "rotate", "Turned",
      "Turns each octave against the one before, which hides the lattice.", sparse());
  if (noise.basis == Basis::Cellular) {
    m(&NoiseSource::result, "result", "Result",
        "Distance to the first or second site, their difference, or a value of the site.");
    m(&NoiseSource::metric, "metric", "Metric", "How far a site is.");
    m(&NoiseSource::jitter, "jitter", "Jitter",
        "0: sites in the middle of their squares; 1: anywhere in them.",
        number(limits::jitter, 0.01));
  }
  v.rule([&](Ruling& rules) {
    if (const auto frequencies = octaveFrequencies(noise, rules.at()); !frequencies)
      rules.refuse(frequencies.error());
  });
}

void describe(Visitor& v, ConstantSource& s) {
  MembersOf(v, s)(&ConstantSource::value, "value", "Value", "The same everywhere.",
      must(number(limits::altitude, 0.5)));
}

void describe(Visitor& v, RampSource& s) {
  const MembersOf m(v, s);
  m(&RampSource::axis, "axis", "Axis", "Along which it rises: `x` or `z`.", must());
  m(&RampSource::from, "from", "From", "The cell where it is 0.", must(cells(limits::place)));
  m(&RampSource::to, "to", "To", "The cell where it is 1; may lie before the other.",
      must(cells(limits::place)));
  v.rule([&](Ruling& rules) {
    if (s.axis == Axis::Y) rules.refuse("axis", "maps from above have no y", "x or z");
    if (s.from == s.to) rules.refuse("to", "the ramp has no length", "a cell other than from");
  });
}

/// The place that distances and islands are about.
template <class T>
void describePlace(const MembersOf<T>& m, std::string_view what) {
  m(&T::x, "x", "Place", what, must(cells(limits::place)));
  m(&T::z, "z", "Place", what, must(cells(limits::place)));
}

void describe(Visitor& v, DistanceSource& s) {
  const MembersOf m(v, s);
  describePlace(m, "The point that distance is measured from.");
  m(&DistanceSource::reach, "reach", "Reach", "Cells at which the value is 1, as beyond.",
      must(cells(limits::distance)));
}

void describe(Visitor& v, IslandSource& s) {
  const MembersOf m(v, s);
  m.either(&IslandSource::square, {"round", "square"}, "shape", "Shape",
      "Of the outline: 1 inside, 0 outside.", must());
  describePlace(m, "The middle of the outline.");
  m(&IslandSource::radius, "radius", "Radius", "From the middle to the outline.",
      must(cells(limits::distance)));
  m(&IslandSource::edge, "edge", "Edge", "Width of the passage from 1 to 0 about the outline.",
      must(cells(limits::distance)));
  m(&IslandSource::wobble, "wobble", "Wobble", "How far the outline strays to either side.",
      cells(Range{0, 1e6}));
  m(&IslandSource::wobbleWidth, "wobbleWidth", "Wobble width", "Feature width of the straying.",
      cells(limits::width).ofFeatures());
}

void describe(Visitor& v, PictureSource& s) {
  const MembersOf m(v, s);
  m(&PictureSource::file, "file", "File",
      "Greyscale PNG of 8 or 16 bits, 2 to 8192 pixels a side, relative to the recipe: black 0, "
      "white 1.",
      must().of(Role::File).upTo(4096));
  describePlace(m, "The cell of the middle of the first pixel.");
  m(&PictureSource::scale, "scale", "Scale", "Cells per pixel.", must(cells(limits::distance)));
  m(&PictureSource::smooth, "smooth", "Smooth", "Bilinear between pixels, else the nearest.");
  m(&PictureSource::outside, "outside", "Outside", "What lies beyond the picture.");
  m(&PictureSource::outsideValue, "outsideValue", "Value outside", "With outside `value`.",
      number(limits::altitude).when(s.outside == PictureSource::Outside::Value));
  v.rule([&](Ruling& rules) {
    if (s.file.empty()) rules.refuse("file", "no file is named", "a PNG file");
  });
}

void describe(Visitor& v, FieldSource& s) {
  MembersOf(v, s)(&FieldSource::field, "field", "Field", "Another field of the recipe.",
      must().of(Role::Field));
}

void describe(Visitor& v, TerraceSource& s) {
  const MembersOf m(v, s);
  m(&TerraceSource::height, "height", "Step", "Reshapes the sum before it: height of a step.",
      must(number(limits::terrace, 0.1)));
  m(&TerraceSource::flat, "flat", "Flat", "Share of each step that is level; the rest rises.",
      must(number(limits::flat, 0.01)));
}

void describe(Visitor& v, FoldSource& s) {
  MembersOf(v, s)(&FoldSource::centre, "centre", "Centre",
      "Reshapes the sum before it: its distance from here.", must(number(limits::altitude, 0.5)));
}

void describe(Visitor& v, RescaleSource& s) {
  const auto ends = [&](const About& about, double& low, double& high) {
    for (const double* end : {&low, &high}) v.meets(about, end);
    std::optional<double> first = low, second = high;
    v.pair(about, first, second);
    if (!v.fills()) return;
    low = first.value_or(low);
    high = second.value_or(high);
  };
  ends(said("from", "From", "Reshapes the sum before it: this range ...",
           must(number(limits::altitude, 0.5))),
      s.fromLow, s.fromHigh);
  ends(said("to", "To", "... becomes this one, and is carried on beyond.",
           must(number(limits::altitude, 0.5))),
      s.toLow, s.toHigh);
  v.rule([&](Ruling& rules) {
    if (static_cast<float>(s.fromLow) == static_cast<float>(s.fromHigh))
      rules.refuse("from", "the range has no width", "two different numbers");
  });
}

void describe(Visitor&, EqualiseSource&) {}
void describe(Visitor&, AltitudeSource&) {}

void describe(Visitor& v, LatitudeSource& s) {
  const MembersOf m(v, s);
  m(&LatitudeSource::equator, "equator", "Equator", "The z where it is 0.",
      must(cells(limits::place)));
  m(&LatitudeSource::reach, "reach", "Reach", "Cells north or south of it where it is 1.",
      must(cells(limits::distance)));
}

void describe(Visitor& v, WaterSource& s) {
  MembersOf(v, s)(&WaterSource::reach, "reach", "Reach",
      "Cells from the nearest cell below the sea at which the value is 1.",
      must(cells(limits::waterReach, 1)).wholeOnly());
}

void describe(Visitor& v, FreshWaterSource& s) {
  MembersOf(v, s)(&FreshWaterSource::tells, "tells", "Tells",
      "Of rivers and lakes: the cells to the nearest, how far its surface lies above the sea, or a "
      "hash in [0, 1) of the node it belongs to.",
      must());
}

void describe(Visitor& v, WalkSource& s) {
  const MembersOf m(v, s);
  m(&WalkSource::low, "low", "Low", "The lowest height.", must(cells(limits::walkHeight, 1)));
  m(&WalkSource::high, "high", "High", "The highest.", must(cells(limits::walkHeight, 1)));
  m(&WalkSource::slope, "slope", "Slope", "Most rise per cell.",
      must(number(limits::walkSlope, 0.02)));
  m(&WalkSource::change, "change", "Change", "Most that the slope changes per cell.",
      must(number(limits::walkChange, 0.01)));
  m(&WalkSource::limits, "limits", "Limits",
      "The walk turns back at low and high; else it starts between them.");
  v.rule([&](Ruling& rules) {
    if (s.high - s.low < 1)
      rules.refuse(
          "high", fmt::format("{} leaves no room above {}", s.high, s.low), "at least 1 above low");
    else if (walkSegment(s) > kLongestWalkSegment)
      rules.refuse("change", "the walk keeps its course for too long to be had column by column",
          fmt::format("a larger change, or a steeper slope for so high a range: with "
                      "these four the segments would take {} cells, at most {} are "
                      "possible",
              walkSegment(s), kLongestWalkSegment));
  });
}

}  // namespace

void describe(Visitor& v, SamplingOffset& offset) {
  const MembersOf m(v, offset, "sampling");
  m(&SamplingOffset::x, "x", "Shift", "Cells along x.", must(cells(limits::sampling, 0.5)));
  m(&SamplingOffset::z, "z", "Shift", "Cells along z.", must(cells(limits::sampling, 0.5)));
  m(&SamplingOffset::scatter, "scatter", "Scattered", "Scattered by the seed besides.", sparse());
}

void describe(Visitor& v, NoiseSource& noise) {
  v.begin("noise");
  v.kinds(said("kind", "Kind", "Of the noise.", must()), wordsOf(Basis{}),
      static_cast<size_t>(noise.basis), [&](size_t basis) { describeNoise(v, noise, basis); });
}

void describeBand(Visitor& v, NoiseBand& band) {
  const MembersOf m(v, band);
  m(&NoiseBand::noise, "noise", "Noise", "That is looked at.", must());
  m(&NoiseBand::low, "low", "From", "The band's values low ≤ v ...",
      must(number(limits::noiseBand, 0.005)));
  m(&NoiseBand::high, "high", "To", "... < high.", must(number(limits::noiseBand, 0.005)));
  v.rule([&](Ruling& rules) {
    if (!(band.low < band.high))
      rules.refuse(
          "high", fmt::format("{} does not lie above {}", band.high, band.low), "more than low");
  });
}

void describe(Visitor& v, NoiseBand& band) {
  v.begin("noiseBand");
  describeBand(v, band);
}

void describe(Visitor& v, Clamp& clamp) {
  const MembersOf m(v, clamp, "clamp");
  m(&Clamp::low, "low", "Lowest", "Values below become it.", must(number(limits::altitude, 0.5)));
  m(&Clamp::high, "high", "Highest", "Values above become it.",
      must(number(limits::altitude, 0.5)));
  v.rule([&](Ruling& rules) {
    if (clamp.low > clamp.high)
      rules.refuse(
          "", fmt::format("{} lies above {}", clamp.low, clamp.high), "low no higher than high");
  });
}

void describe(Visitor& v, Mask& mask) {
  const MembersOf m(v, mask, "mask");
  m(&Mask::field, "field", "Field", "Whose values decide.", must().of(Role::Field));
  m(&Mask::low, "low", "From", "It acts fully from here; null: endless.",
      number(limits::altitude, 0.05).orNull());
  m(&Mask::high, "high", "To", "And below this; null: endless.",
      number(limits::altitude, 0.05).orNull());
  m(&Mask::soft, "soft", "Soft", "Width of the edges, centred on the ends.",
      number(limits::soft, 0.05));
  v.rule([&](Ruling& rules) {
    if (mask.low && mask.high && *mask.low > *mask.high)
      rules.refuse("", "low lies above high", "low no higher than high");
  });
}

void describe(Visitor& v, Warp& warp) {
  v.begin("warp");
  v.kinds(said("kind", "Kind", "Of the noise that shifts.", must()), wordsOf(Basis{}),
      static_cast<size_t>(warp.noise.basis), [&](size_t basis) {
        const MembersOf m(v, warp);
        m(&Warp::cells, "cells", "Shift", "Largest by the first octave.",
            must(cells(limits::warpCells, 0.5)));
        m(&Warp::passes, "passes", "Passes", "How often the place is shifted.",
            number(limits::warpPasses, 1));
        describeNoise(v, warp.noise, basis);
      });
}

void describe(Visitor& v, Layer& layer) {
  const MembersOf m(v, layer, "layer");
  m.idAndName();
  m.on(&Layer::on, true);
  m(&Layer::combine, "combine", "Join",
      "How it joins the sum of the layers before it; layers that reshape the sum do not.",
      About{}.when(!reshapes(layer.source)));
  m(&Layer::amount, "amount", "Amount",
      "Share of `mix`; blending range of the smooth minimum and maximum.",
      (layer.combine == Combine::Mix ? number(limits::share, 0.01)
          : hasAmount(layer.combine) ? number(limits::smooth, 0.1)
                                     : number(kAnyNumber))
          .says("0 to 1; 1e-6 to 1e6")
          .when(hasAmount(layer.combine)));
  v.kinds(said("kind", "Kind", "Of the layer.", must()), layerKinds(), kindOf(layer.source),
      [&](size_t kind) {
        const size_t bases = wordsOf(Basis{}).size();
        hold(layer.source, kind < bases ? 0 : kind - bases + 1);
        if (auto* noise = std::get_if<NoiseSource>(&layer.source))
          describeNoise(v, *noise, kind);
        else
          std::visit(
              [&](auto& source) {
                if constexpr (!std::is_same_v<decltype(source), NoiseSource&>) describe(v, source);
              },
              layer.source);
        const bool plain =
            std::holds_alternative<ConstantSource>(layer.source) || reshapes(layer.source);
        m(&Layer::amplitude, "amplitude", "Amplitude", "The value is multiplied by it.",
            number(limits::amplitude, 0.5)
                .there(kind < bases ? Presence::Must
                       : plain      ? Presence::Sparse
                                    : Presence::Usual));
        m(&Layer::offset, "offset", "Offset", "Then this is added.",
            number(limits::altitude, 0.5).there(plain ? Presence::Sparse : Presence::Usual));
      });
  size_t word = 0;
  const bool noise = std::holds_alternative<NoiseSource>(layer.source);
  if (const About about = said("sampling", "Sampling",
          "Noise is `scatter`ed by the seed, octave by octave, unless this "
          "shifts it by `x` and `z`.",
          About{}.when(layer.sampling || noise));
      !v.instead(about, {"scatter"}, word, !layer.sampling))
    m(&Layer::sampling, about);
  m(&Layer::warp, "warp", "Warp", "Noise that shifts the place.", sparse().orNull());
  m(&Layer::equalise, "equalise", "Equalise",
      "Through the layer's own distribution to 0 … 1, before curve and amplitude.", sparse());
  m(&Layer::curve, "curve", "Curve", "Points of rising x, before the amplitude.",
      sparse(number(limits::altitude)));
  m(&Layer::clamp, "clamp", "Clamp", "The last of all.", sparse());
  m(&Layer::mask, "mask", "Mask", "Where the layer acts.", sparse().orNull());
  m(&Layer::note, "note", "Note", "What people write down; it changes no cell.",
      sparse().upTo(limits::noteBytes).unkeyed());
  v.rule([&](Ruling& rules) {
    if (layer.sampling && reshapes(layer.source) &&
        (layer.sampling->x != 0 || layer.sampling->z != 0))
      rules.refuse("sampling",
          "this kind of layer reshapes the sum before it, at no place of its own", "no sampling");
  });
}

void describeBody(Visitor& v, FieldRecipe& field) {
  const MembersOf m(v, field);
  m(&FieldRecipe::layers, "layers", "Layers", "Joined in order to a sum that starts at 0.",
      must().upTo(limits::layers));
  m(&FieldRecipe::curve, "curve", "Curve", "Of the sum.", sparse(number(limits::altitude)));
  m(&FieldRecipe::clamp, "clamp", "Clamp", "Of what the curve makes.", sparse());
}

void describe(Visitor& v, FieldRecipe& field) {
  const MembersOf m(v, field, "field");
  m.idAndName();
  describeBody(v, field);
  v.rule([&](Ruling& rules) {
    if (field.id == kHeightsId || field.id == kTemperatureId || field.id == kMoistureId)
      rules.refuse("id", fmt::format("\"{}\" is taken", field.id),
          "an id that no other field has, other than heights, temperature and moisture");
  });
}

template <>
const ClimateAxis& MembersOf<ClimateAxis>::usual() {
  static const ClimateAxis axis = Climate{}.temperature;
  return axis;
}

void describe(Visitor& v, ClimateAxis& axis) {
  const MembersOf m(v, axis, "climateAxis");
  describeBody(v, axis.field);
  m(&ClimateAxis::low, "low", "Low", "The value that charts begin with.", number(limits::altitude));
  m(&ClimateAxis::high, "high", "High", "The value that they end with.", number(limits::altitude));
  v.object(
      said("unit", "Unit", "What the values are called.", sparse().when(!axis.unit.empty())), [&] {
        v.begin("unit");
        m(&ClimateAxis::unit, "name", "Unit", "As \"°C\".",
            must().upTo(limits::unitBytes).unkeyed());
        m(&ClimateAxis::unitLow, "low", "Low in the unit", "What `low` is called.",
            must(number(limits::altitude)).unkeyed());
        m(&ClimateAxis::unitHigh, "high", "High in the unit", "What `high` is called.",
            must(number(limits::altitude)).unkeyed());
      });
  v.rule([&](Ruling& rules) {
    if (!(axis.low < axis.high))
      rules.refuse("high", fmt::format("{} does not lie above low, {}", axis.high, axis.low),
          "a number above low");
    if (!axis.unit.empty() && axis.unitLow == axis.unitHigh)
      rules.refuse(
          "unit/high", "both ends stand for the same number", "a number other than the unit's low");
  });
}

void describe(Visitor& v, Climate& climate) {
  const MembersOf m(v, climate, "climate");
  m.on(&Climate::on);
  m(&Climate::temperature, "temperature", "Temperature", "The field of that id.", must());
  m(&Climate::moisture, "moisture", "Moisture", "The field of that id.", must());
}

}  // namespace acre
