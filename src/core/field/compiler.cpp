#include "field/compiler.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "field/distribution.h"
#include "recipe/look.h"
#include "recipe/validate.h"
#include "recipe/walk.h"

namespace acre {
namespace {

/// Stage identities in the seed chain; they never change within generation 0.
constexpr uint64_t kHeightsStage = 0x48656967687473;  // "Heights"
constexpr uint64_t kFieldsStage = 0x4669656C6473;     // "Fields"
constexpr uint64_t kWarpTag = 0x57617270;             // "Warp"; + axis
constexpr uint64_t kWobbleTag = 0x576F62626C65;       // "Wobble"
constexpr uint64_t kWalkTag = 0x57616C6B;             // "Walk"

constexpr uint64_t kPhase = 16;  // Axis tags of octaves are 0, 1, 2; phases 16, 17, 18.

/// Cells and 1/65536 cells of a place given in cells, rounded to the nearest.
Pos toPos(double cells) {
  const double whole = std::floor(cells);
  const auto q = static_cast<int32_t>(std::floor((cells - whole) * 65536.0 + 0.5));
  return {static_cast<int64_t>(whole) + (q >> 16), q & 0xFFFF};
}

/// To float, with -0 as 0 so that sums need not tell them apart.
float toFloat(double v) {
  return static_cast<float>(v) + 0.0f;
}

using Matrix = std::array<std::array<double, 3>, 3>;

Matrix times(const Matrix& a, const Matrix& b) {
  Matrix out{};
  for (size_t i = 0; i < 3; ++i)
    for (size_t j = 0; j < 3; ++j)
      out[i][j] = a[i][0] * b[0][j] + a[i][1] * b[1][j] + a[i][2] * b[2][j];
  return out;
}

constexpr Matrix kIdentity = {{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}};

/// Turns one octave against the one before: by the angle of the 3-4-5 triangle, and in three
/// dimensions about an axis of its own.
Matrix rotationOf(int dims) {
  if (dims == 1) return kIdentity;
  if (dims == 2) return {{{0.8, 0, -0.6}, {0, 1, 0}, {0.6, 0, 0.8}}};
  constexpr double t = 1.0 / 3.0;
  return {{{2 * t, -t, 2 * t}, {2 * t, 2 * t, -t}, {-t, 2 * t, 2 * t}}};
}

/// From the places of simplex corners to whole numbers.
Matrix skewOf(int dims) {
  if (dims == 1) return kIdentity;
  Matrix out = kIdentity;
  const double skew = dims == 2 ? kSkew2 : kSkew3;
  for (int i = 0; i < dims; ++i)
    for (int j = 0; j < dims; ++j)
      out[static_cast<size_t>(dimAxis(dims, i))][static_cast<size_t>(dimAxis(dims, j))] += skew;
  return out;
}

void writeBounds(DigestWriter& key, const std::optional<AxisBounds>& axis) {
  key.u8(axis.has_value());
  if (axis) key.i64(axis->min).i64(axis->extent);
}

std::optional<std::pair<float, float>> compileClamp(const std::optional<Clamp>& clamp) {
  if (!clamp) return {};
  return std::pair(toFloat(clamp->low), toFloat(clamp->high));
}

std::shared_ptr<const CurveTable> compileCurve(const Curve& curve) {
  return curve.empty() ? nullptr : std::make_shared<const CurveTable>(curve);
}

}  // namespace

uint64_t fieldSeedOf(const std::string& fieldId, uint64_t worldSeed) {
  if (fieldId == kHeightsId) return combine(worldSeed, kHeightsStage);
  return combine(combine(worldSeed, kFieldsStage), hashText(fieldId));
}

Result<NoisePlan> compileNoise(const NoiseSource& source,
    const std::optional<SamplingOffset>& sampling, uint64_t seed, int dims,
    const std::string& where) {
  const auto frequencies = octaveFrequencies(source, where);
  if (!frequencies) return frequencies.error();
  NoisePlan plan;
  plan.dims = dims;
  plan.basis = source.basis;
  plan.shape = source.fractal == Fractal::Ridged     ? Shape::Ridged
               : source.fractal == Fractal::Billowed ? Shape::Billowed
                                                     : Shape::Plain;
  plan.result = source.result;
  plan.metric = source.metric;
  plan.jitter = toFloat(source.jitter);
  const bool rotated = source.rotate && source.usedOctaves() > 1 && dims > 1;
  plan.aligned = !rotated && (source.basis != Basis::Simplex || dims == 1);
  if (sampling) {
    plan.shift[kX] = toPos(sampling->x);
    plan.shift[kZ] = toPos(sampling->z);
  }
  Matrix turned = kIdentity;
  double weight = 1;
  for (size_t k = 0; k < frequencies->size(); ++k, weight *= source.gain) {
    if (k > 0 && rotated) turned = times(rotationOf(dims), turned);
    const Matrix lattice = source.basis == Basis::Simplex ? times(skewOf(dims), turned) : turned;
    const uint64_t octaveSeed = combine(seed, k);
    Octave octave;
    for (int i = 0; i < dims; ++i) {
      const int a = dimAxis(dims, i);
      for (int j = 0; j < dims; ++j) {
        const int b = dimAxis(dims, j);
        octave.steps[a][b] = static_cast<int64_t>(std::floor(
            (*frequencies)[k] * lattice[static_cast<size_t>(a)][static_cast<size_t>(b)] + 0.5));
      }
      octave.seed[a] = combine(octaveSeed, static_cast<uint64_t>(a));
      // The published table has no seed, so scattering by one would hide what it promises.
      if ((!sampling || sampling->scatter) && source.basis != Basis::Gradient2002)
        octave.phase[a] = combine(octaveSeed, kPhase + static_cast<uint64_t>(a)) >> 16;
    }
    octave.weight = toFloat(weight);
    plan.octaves.push_back(octave);
  }
  return plan;
}

const FieldRecipe* FieldCompiler::find(const std::string& id) const {
  if (id == kHeightsId) return &inputs_.heights;
  if (const Climate* climate = inputs_.climate; climate && climate->on) {
    if (id == kTemperatureId) return &climate->temperature.field;
    if (id == kMoistureId) return &climate->moisture.field;
  }
  const auto found = std::find_if(inputs_.fields.begin(), inputs_.fields.end(),
      [&](const FieldRecipe& f) { return f.id == id; });
  return found == inputs_.fields.end() ? nullptr : &*found;
}

std::string FieldCompiler::pointerOf(const FieldRecipe& field) const {
  if (&field == &inputs_.heights) return "/heights";
  if (inputs_.climate && &field == &inputs_.climate->temperature.field)
    return "/climate/temperature";
  if (inputs_.climate && &field == &inputs_.climate->moisture.field) return "/climate/moisture";
  return fmt::format("/fields/{}", &field - inputs_.fields.data());
}

Result<std::shared_ptr<const GreyPicture>> FieldCompiler::pictureOf(
    const PictureSource& source, const std::string& where) {
  return pool_.picture(std::filesystem::path(inputs_.folder) / source.file, where + "/file");
}

bool FieldCompiler::stationary(const Layer& layer) const {
  return isStationary(layer, [this](const std::string& id) { return find(id); });
}

// ---- keys --------------------------------------------------------------------------------------

Result<Digest> FieldCompiler::keyOf(const FieldRecipe& field) {
  if (const auto known = keys_.find(field.id); known != keys_.end()) return known->second;
  DigestWriter key;
  key.text("field").u32(2).u32(static_cast<uint32_t>(dims_));
  key.u64(fieldSeedOf(field.id, inputs_.seed));
  bool measured = false, alike = true;
  for (size_t i = 0; i < field.layers.size(); ++i) {
    const Layer& layer = field.layers[i];
    if (!layer.on) continue;
    writeKey(key, layer);
    for (const std::string& id : fieldsReadBy(layer)) {
      const auto read = keyOf(*find(id));
      if (!read) return read.error();
      key.digest(*read);
    }
    measured = measured || layer.equalise || std::holds_alternative<EqualiseSource>(layer.source);
    alike = alike && stationary(layer);
    if (std::holds_alternative<AltitudeSource>(layer.source) ||
        std::holds_alternative<WaterSource>(layer.source))
      key.f64(seaLevel_);
    if (std::holds_alternative<FreshWaterSource>(layer.source)) key.digest(freshKey_);
    if (const auto* s = std::get_if<PictureSource>(&layer.source)) {
      const auto picture = pictureOf(*s, fmt::format("{}/layers/{}", pointerOf(field), i));
      if (!picture) return picture.error();
      key.digest((*picture)->digest);
    }
  }
  writeKey(key, field.curve);
  writeKey(key, field.clamp);
  if (measured) key.u64(inputs_.seed);
  if (measured && !alike) {
    writeBounds(key, inputs_.x);
    writeBounds(key, inputs_.z);
  }
  return keys_[field.id] = key.finish();
}

// ---- compiling ---------------------------------------------------------------------------------

std::shared_ptr<const QuantileTable> FieldCompiler::distributionOf(
    const Field& field, bool stationary) {
  const std::optional<AxisBounds> endless;
  const auto sample = Distribution::take(field,
      SampleSites(stationary ? endless : inputs_.x, stationary ? endless : inputs_.z,
          field.widestFeature(), inputs_.seed),
      kernels_, stop_);
  if (!sample) return nullptr;
  return std::make_shared<const QuantileTable>(sample->sorted());
}

double FieldCompiler::widestOf(const Layer& layer) {
  double widest = 1;
  if (const auto* noise = std::get_if<NoiseSource>(&layer.source)) widest = noise->width;
  if (const auto* walk = std::get_if<WalkSource>(&layer.source))
    widest = static_cast<double>(walkSegment(*walk));
  if (layer.warp) widest = std::max(widest, layer.warp->noise.width);
  for (const std::string& id : fieldsReadBy(layer))
    if (const auto read = compile(*find(id))) widest = std::max(widest, (*read)->widestFeature());
  return widest;
}

Status FieldCompiler::compileSource(
    const Layer& layer, uint64_t seed, const std::string& where, FieldStep& step) {
  const auto anchor = [](double x, double z) { return Anchor{toPos(x), toPos(z)}; };

  if (const auto* s = std::get_if<NoiseSource>(&layer.source)) {
    auto plan = compileNoise(*s, layer.sampling, seed, dims_, where);
    if (!plan) return plan.error();
    step.value = std::move(*plan);
  } else if (const auto* s = std::get_if<ConstantSource>(&layer.source)) {
    step.value = toFloat(s->value);
  } else if (const auto* s = std::get_if<RampSource>(&layer.source)) {
    const int axis = s->axis == Axis::X ? kX : s->axis == Axis::Z ? kZ : kY;
    step.value = FieldStep::Ramp{axis, toPos(s->from), s->to - s->from};
  } else if (const auto* s = std::get_if<DistanceSource>(&layer.source)) {
    step.value = FieldStep::Distance{anchor(s->x, s->z), s->reach};
  } else if (const auto* s = std::get_if<IslandSource>(&layer.source)) {
    NoiseSource outline;
    outline.fractal = Fractal::Fbm;
    outline.octaves = 3;
    outline.width = s->wobbleWidth;
    auto plan = compileNoise(outline, {}, combine(seed, kWobbleTag), dims_, where + "/wobbleWidth");
    if (!plan) return plan.error();
    step.value = FieldStep::Island{
        s->square, anchor(s->x, s->z), s->radius, s->edge, toFloat(s->wobble), std::move(*plan)};
  } else if (const auto* s = std::get_if<PictureSource>(&layer.source)) {
    auto picture = pictureOf(*s, where);
    if (!picture) return picture.error();
    step.value = FieldStep::Picture{
        *picture, anchor(s->x, s->z), s->scale, s->smooth, s->outside, toFloat(s->outsideValue)};
  } else if (const auto* s = std::get_if<FieldSource>(&layer.source)) {
    auto read = compile(*find(s->field));
    if (!read) return read.error();
    step.value = *read;
  } else if (const auto* s = std::get_if<TerraceSource>(&layer.source)) {
    step.value = FieldStep::Terrace{toFloat(s->height), toFloat(s->flat)};
  } else if (const auto* s = std::get_if<FoldSource>(&layer.source)) {
    step.value = FieldStep::Fold{toFloat(s->centre)};
  } else if (const auto* s = std::get_if<RescaleSource>(&layer.source)) {
    step.value = FieldStep::Rescale{toFloat(s->fromLow),
        toFloat((s->toHigh - s->toLow) / (s->fromHigh - s->fromLow)), toFloat(s->toLow)};
  } else if (const auto* s = std::get_if<LatitudeSource>(&layer.source)) {
    step.value = FieldStep::Latitude{toPos(s->equator), s->reach};
  } else if (std::holds_alternative<AltitudeSource>(layer.source)) {
    auto heights = compile(inputs_.heights);
    if (!heights) return heights.error();
    step.value = FieldStep::Altitude{*heights, toFloat(seaLevel_)};
  } else if (const auto* s = std::get_if<WaterSource>(&layer.source)) {
    auto heights = compile(inputs_.heights);
    if (!heights) return heights.error();
    step.value = std::make_shared<const WaterDistance>(
        *heights, toFloat(seaLevel_), static_cast<int>(s->reach), pool_.memo());
  } else if (const auto* s = std::get_if<FreshWaterSource>(&layer.source)) {
    step.value = FieldStep::Fresh{fresh_, s->tells};
  } else if (const auto* s = std::get_if<WalkSource>(&layer.source)) {
    step.value = std::make_shared<const Skyline>(*s, combine(seed, kWalkTag), pool_.memo());
  } else {
    step.value = FieldStep::Sum{};
  }
  return done();
}

Result<FieldStep> FieldCompiler::compileLayer(
    const Field& soFar, const FieldRecipe& field, size_t index, uint64_t fieldSeed) {
  const Layer& layer = field.layers[index];
  const std::string where = fmt::format("{}/layers/{}", pointerOf(field), index);
  const uint64_t seed = combine(fieldSeed, hashText(layer.id));
  FieldStep step;
  step.id = layer.id;
  step.combine = layer.combine;
  step.amount = toFloat(layer.amount);
  step.amplitude = toFloat(layer.amplitude);
  step.offset = toFloat(layer.offset);
  step.clamp = compileClamp(layer.clamp);
  step.curve = compileCurve(layer.curve);
  if (layer.sampling) {
    step.shift[kX] = toPos(layer.sampling->x);
    step.shift[kZ] = toPos(layer.sampling->z);
  }
  if (const Status compiled = compileSource(layer, seed, where, step); !compiled)
    return compiled.error();
  if (layer.warp && !step.reshapes()) {
    FieldStep::Warp warp{{}, {}, {}, toFloat(layer.warp->cells), layer.warp->passes};
    for (int n = 0; n < dims_; ++n) {
      const int a = dimAxis(dims_, n);
      auto plan = compileNoise(layer.warp->noise, {},
          combine(seed, kWarpTag + static_cast<uint64_t>(a)), dims_, where + "/warp");
      if (!plan) return plan.error();
      (a == kX ? warp.x : a == kZ ? warp.z : warp.y) = std::move(*plan);
    }
    step.warp = std::move(warp);
  }
  if (layer.mask) {
    auto read = compile(*find(layer.mask->field));
    if (!read) return read.error();
    constexpr double kEndless = std::numeric_limits<double>::infinity();
    step.mask = FieldStep::Mask{
        *read, {toFloat(layer.mask->low.value_or(-kEndless)),
                   toFloat(layer.mask->high.value_or(kEndless)), toFloat(layer.mask->soft)}};
  }
  const auto alikeBefore = [&] {
    const auto from = field.layers.begin(), to = from + static_cast<ptrdiff_t>(index);
    return std::all_of(from, to, [&](const Layer& l) { return !l.on || stationary(l); });
  };
  if (std::holds_alternative<EqualiseSource>(layer.source)) {
    step.distribution = distributionOf(soFar, alikeBefore());
  } else if (layer.equalise) {
    // The layer alone, bare, as a field of its own.
    Field bare = soFar;
    FieldStep only = step;
    only.mask.reset();
    only.curve = nullptr;
    only.clamp.reset();
    only.amplitude = 1;
    only.offset = 0;
    if (!only.reshapes()) {
      bare.steps_.clear();
      only.combine = Combine::Replace;
    }
    const bool alike = stationary(layer) && (!only.reshapes() || alikeBefore());
    bare.steps_.push_back(std::move(only));
    bare.widest_ = std::max(bare.widest_, widestOf(layer));
    step.distribution = distributionOf(bare, alike);
  }
  const bool measured = layer.equalise || std::holds_alternative<EqualiseSource>(layer.source);
  if (measured && !step.distribution) return cancelled();
  return step;
}

Result<std::shared_ptr<const Field>> FieldCompiler::compile(const FieldRecipe& recipe) {
  const auto key = keyOf(recipe);
  if (!key) return key.error();
  return pooled<Field>(pool_, *key, [&] { return make(recipe, *key); });
}

Result<std::shared_ptr<const Field>> FieldCompiler::make(
    const FieldRecipe& recipe, const Digest& key) {
  auto field = std::make_shared<Field>();
  field->key_ = key;
  field->dims_ = dims_;
  const uint64_t seed = fieldSeedOf(recipe.id, inputs_.seed);
  for (size_t i = 0; i < recipe.layers.size(); ++i) {
    const Layer& layer = recipe.layers[i];
    if (!layer.on) continue;
    auto step = compileLayer(*field, recipe, i, seed);
    if (!step) return step.error();
    field->widest_ = std::max(field->widest_, widestOf(layer));
    field->steps_.push_back(std::move(*step));
  }
  field->curve_ = compileCurve(recipe.curve);
  field->clamp_ = compileClamp(recipe.clamp);
  return std::shared_ptr<const Field>(std::move(field));
}

}  // namespace acre
