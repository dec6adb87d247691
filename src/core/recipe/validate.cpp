#include "recipe/validate.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "base/seed.h"

namespace acre {
namespace {

Error refuse(std::string where, std::string what, std::string accepted) {
  return {Error::Code::InvalidInput, std::move(what), std::move(where), std::move(accepted)};
}

Status checkNumber(const std::string& where, double value, const Range& range) {
  if (range.holds(value)) return done();
  return refuse(where, fmt::format("{} is out of range", value), range.text());
}

Status checkId(const std::string& where, const std::string& id) {
  const bool plain = std::all_of(id.begin(), id.end(), [](char c) {
    return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-' || c == '_' || c == '.';
  });
  if (!plain || id.empty() || id.size() > 64)
    return refuse(where, fmt::format("\"{:.80}\" is not an id", id),
                  "1 to 64 characters of a-z, 0-9, '-', '_' and '.'");
  return done();
}

Status checkText(const std::string& where, const std::string& text, size_t limit) {
  if (text.size() <= limit) return done();
  return refuse(where, fmt::format("{} bytes of text are too long", text.size()),
                fmt::format("at most {} bytes", limit));
}

Status checkCount(const std::string& where, size_t count, size_t limit) {
  if (count <= limit) return done();
  return refuse(where, fmt::format("{} members are too many", count),
                fmt::format("at most {}", limit));
}

Status checkBounds(const std::string& where, const std::optional<AxisBounds>& axis) {
  if (!axis) return done();
  if (axis->min < -limits::cell || axis->min > limits::cell)
    return refuse(where + "/min", fmt::format("{} is out of range", axis->min), "-2^60 to 2^60");
  if (axis->extent < 1 || axis->extent > limits::cell + 1 - axis->min)
    return refuse(where + "/extent", fmt::format("{} cells are not an extent", axis->extent),
                  fmt::format("1 to {} from this minimum (the end stays within 2^60)",
                              limits::cell + 1 - axis->min));
  return done();
}

/// Runs checks in order and keeps the first refusal.
class Checks {
 public:
  void add(Status status) {
    if (first_.ok() && !status.ok()) first_ = std::move(status);
  }
  bool ok() const { return first_.ok(); }
  Status result() && { return std::move(first_); }

 private:
  Status first_ = done();
};

void checkLayer(Checks& checks, const std::string& at, const Layer& layer) {
  checks.add(checkId(at + "/id", layer.id));
  checks.add(checkText(at + "/name", layer.name, limits::nameBytes));
  if (const auto* constant = std::get_if<ConstantSource>(&layer.source)) {
    checks.add(checkNumber(at + "/value", constant->value, limits::altitude));
    return;
  }
  const auto& noise = std::get<GradientSource>(layer.source);
  checks.add(checkNumber(at + "/width", noise.width, limits::width));
  checks.add(checkNumber(at + "/octaves", noise.octaves, limits::octaves));
  checks.add(checkNumber(at + "/lacunarity", noise.lacunarity, limits::lacunarity));
  checks.add(checkNumber(at + "/gain", noise.gain, limits::gain));
  checks.add(checkNumber(at + "/amplitude", noise.amplitude, limits::amplitude));
  checks.add(checkNumber(at + "/offset", noise.offset, limits::altitude));
  if (noise.sampling) {
    checks.add(checkNumber(at + "/sampling/x", noise.sampling->x, limits::sampling));
    checks.add(checkNumber(at + "/sampling/z", noise.sampling->z, limits::sampling));
  }
  if (!checks.ok()) return;
  if (const auto steps = octaveSteps(noise, at); !steps) checks.add(steps.error());
}

void checkBand(Checks& checks, const std::string& at, const Band& band, bool last,
               const std::set<std::string>& materials) {
  checks.add(checkId(at + "/id", band.id));
  if (last && band.below)
    checks.add(refuse(at + "/below", "the last band has an upper end, so higher ground has no band",
                      "no \"below\" in the last band"));
  if (!last && !band.below)
    checks.add(refuse(at, "this band has no upper end but others follow",
                      "\"below\" in every band but the last"));
  if (band.below) checks.add(checkNumber(at + "/below", band.below->value, limits::altitude));
  if (band.material != kUnassignedId && !materials.contains(band.material))
    checks.add(refuse(at + "/material",
                      fmt::format("there is no material \"{:.80}\"", band.material),
                      "the id of a listed material, or null"));
}

}  // namespace

std::string Range::text() const {
  return fmt::format("{} to {}", low, high);
}

Result<std::vector<uint64_t>> octaveSteps(const GradientSource& source, const std::string& where) {
  constexpr double kSmallest = 0x1p16;
  constexpr double kLargest = 0x1p53;
  std::vector<uint64_t> steps;
  double frequency = 0x1p48 / source.width;
  for (int k = 0; k < source.usedOctaves(); ++k, frequency *= source.lacunarity) {
    const double rounded = frequency + 0.5;
    if (!(rounded >= kSmallest && frequency <= kLargest))
      return refuse(where + "/octaves",
                    fmt::format("octave {} would have a feature width of {:.6g} cells", k + 1,
                                0x1p48 / frequency),
                    fmt::format("{} to {} cells in every octave, here at most {} octaves",
                                limits::width.low, limits::width.high, k));
    steps.push_back(static_cast<uint64_t>(rounded));
  }
  return steps;
}

Range possibleHeights(const std::vector<Layer>& layers) {
  Range sum{0, 0};
  for (const Layer& layer : layers) {
    if (!layer.on) continue;
    Range r{0, 0};
    if (const auto* constant = std::get_if<ConstantSource>(&layer.source)) {
      r = {constant->value, constant->value};
    } else {
      const auto& noise = std::get<GradientSource>(layer.source);
      double weight = 1, reach = 0;
      for (int k = 0; k < noise.usedOctaves(); ++k, weight *= noise.gain) reach += weight;
      reach *= noise.amplitude < 0 ? -noise.amplitude : noise.amplitude;
      r = {noise.offset - reach, noise.offset + reach};
    }
    if (layer.combine == Combine::Add) {
      sum = {sum.low + r.low, sum.high + r.high};
    } else {
      const auto [low, high] =
          std::minmax({sum.low * r.low, sum.low * r.high, sum.high * r.low, sum.high * r.high});
      sum = {low, high};
    }
  }
  return sum;
}

Status validate(const Recipe& recipe) {
  Checks checks;
  if (recipe.generation != 0)
    checks.add(refuse("/generation", fmt::format("{} is not known here", recipe.generation), "0"));
  checks.add(checkText("/name", recipe.name, limits::nameBytes));
  checks.add(checkText("/seed", recipe.seed, limits::seedBytes));
  if (recipe.seed.empty() || trimmedSeed(recipe.seed) != recipe.seed)
    checks.add(refuse("/seed", "the seed is empty or has white space at an end",
                      "text or a whole number from -2^63 to 2^64-1"));

  const Frame& frame = recipe.frame;
  checks.add(checkNumber("/frame/chunk", frame.chunkSize, limits::chunkSize));
  checks.add(checkNumber("/frame/sea", frame.seaLevel, limits::altitude));
  checks.add(checkBounds("/frame/bounds/x", frame.x));
  checks.add(checkBounds("/frame/bounds/z", frame.z));

  checks.add(checkCount("/materials", recipe.materials.size(), limits::materials));
  checks.add(checkCount("/heights/layers", recipe.heights.size(), limits::layers));
  checks.add(checkCount("/strata/bands", recipe.bands.size(), limits::bands));
  if (!checks.ok()) return std::move(checks).result();

  std::set<std::string> materials;
  for (size_t i = 0; i < recipe.materials.size() && checks.ok(); ++i) {
    const std::string at = fmt::format("/materials/{}", i);
    const Material& material = recipe.materials[i];
    checks.add(checkId(at + "/id", material.id));
    checks.add(checkText(at + "/name", material.name, limits::nameBytes));
    if (material.id == kUnassignedId || !materials.insert(material.id).second)
      checks.add(refuse(at + "/id", fmt::format("\"{}\" is taken", material.id), "a new id"));
  }

  std::set<std::string> ids;
  for (size_t i = 0; i < recipe.heights.size() && checks.ok(); ++i) {
    const std::string at = fmt::format("/heights/layers/{}", i);
    checkLayer(checks, at, recipe.heights[i]);
    if (!ids.insert(recipe.heights[i].id).second)
      checks.add(refuse(at + "/id", fmt::format("\"{}\" is taken", recipe.heights[i].id),
                        "an id that no other layer has"));
  }
  if (!checks.ok()) return std::move(checks).result();
  const Range reach = possibleHeights(recipe.heights);
  if (!(reach.low >= -limits::reachableHeight && reach.high <= limits::reachableHeight))
    checks.add(refuse("/heights/layers",
                      fmt::format("heights could reach {:.4g} to {:.4g}", reach.low, reach.high),
                      "-1e9 to 1e9 for the whole stack"));

  ids.clear();
  for (size_t i = 0; i < recipe.bands.size() && checks.ok(); ++i) {
    const std::string at = fmt::format("/strata/bands/{}", i);
    checkBand(checks, at, recipe.bands[i], i + 1 == recipe.bands.size(), materials);
    if (!ids.insert(recipe.bands[i].id).second)
      checks.add(refuse(at + "/id", fmt::format("\"{}\" is taken", recipe.bands[i].id),
                        "an id that no other band has"));
  }
  return std::move(checks).result();
}

}  // namespace acre
