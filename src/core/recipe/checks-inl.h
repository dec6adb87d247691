/// Small checks that recipe/validate.cpp and its parts share.
#pragma once

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "recipe/validate.h"

namespace acre {

inline Error refuse(std::string where, std::string what, std::string accepted) {
  return {Error::Code::InvalidInput, std::move(what), std::move(where), std::move(accepted)};
}

inline Status checkNumber(const std::string& where, double value, const Range& range) {
  if (range.holds(value)) return done();
  return refuse(where, fmt::format("{} is out of range", value), range.text());
}

inline Status checkId(const std::string& where, const std::string& id) {
  const bool plain = std::all_of(id.begin(), id.end(), [](char c) {
    return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-' || c == '_' || c == '.';
  });
  if (!plain || id.empty() || id.size() > 64)
    return refuse(where, fmt::format("\"{:.80}\" is not an id", id),
                  "1 to 64 characters of a-z, 0-9, '-', '_' and '.'");
  return done();
}

inline Status checkText(const std::string& where, const std::string& text, size_t limit) {
  if (text.size() <= limit) return done();
  return refuse(where, fmt::format("{} bytes of text are too long", text.size()),
                fmt::format("at most {} bytes", limit));
}

inline Status checkCount(const std::string& where, size_t count, size_t limit) {
  if (count <= limit) return done();
  return refuse(where, fmt::format("{} members are too many", count),
                fmt::format("at most {}", limit));
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

/// An id of its own among `ids`, which takes it in.
inline void checkTaken(Checks& checks, const std::string& at, const std::string& id,
                       std::set<std::string>& ids) {
  checks.add(checkId(at + "/id", id));
  if (!ids.insert(id).second)
    checks.add(refuse(at + "/id", fmt::format("\"{}\" is taken", id), "an id of its own"));
}

inline void checkNoise(Checks& checks, const std::string& at, const NoiseSource& noise) {
  checks.add(checkNumber(at + "/width", noise.width, limits::width));
  checks.add(checkNumber(at + "/octaves", noise.octaves, limits::octaves));
  checks.add(checkNumber(at + "/lacunarity", noise.lacunarity, limits::lacunarity));
  checks.add(checkNumber(at + "/gain", noise.gain, limits::gain));
  checks.add(checkNumber(at + "/jitter", noise.jitter, limits::jitter));
  if (!checks.ok()) return;
  if (const auto frequencies = octaveFrequencies(noise, at); !frequencies)
    checks.add(frequencies.error());
}

inline void checkCurve(Checks& checks, const std::string& at, const Curve& curve) {
  if (curve.size() == 1)
    checks.add(refuse(at, "a curve of one point", "no point, or 2 to 64 of them"));
  checks.add(checkCount(at, curve.size(), limits::curvePoints));
  for (size_t i = 0; i < curve.size() && checks.ok(); ++i) {
    const std::string point = fmt::format("{}/{}", at, i);
    checks.add(checkNumber(point + "/0", curve[i].x, limits::altitude));
    checks.add(checkNumber(point + "/1", curve[i].y, limits::altitude));
    if (i > 0 && !(static_cast<float>(curve[i].x) > static_cast<float>(curve[i - 1].x)))
      checks.add(refuse(
          point + "/0",
          fmt::format("{} does not lie above the point before ({})", curve[i].x, curve[i - 1].x),
          "points with rising x"));
  }
}

inline void checkClamp(Checks& checks, const std::string& at, const std::optional<Clamp>& clamp) {
  if (!clamp) return;
  checks.add(checkNumber(at + "/low", clamp->low, limits::altitude));
  checks.add(checkNumber(at + "/high", clamp->high, limits::altitude));
  if (clamp->low > clamp->high)
    checks.add(refuse(at, fmt::format("{} lies above {}", clamp->low, clamp->high),
                      "low no higher than high"));
}

inline void checkThreshold(Checks& checks, const std::string& at,
                           const std::optional<Threshold>& threshold) {
  if (!threshold) return;
  checks.add(checkNumber(at, threshold->value, limits::altitude));
  if (threshold->share) checks.add(checkNumber(at + "/share", *threshold->share, limits::share));
}

inline void checkMaterial(Checks& checks, const std::string& at, const std::string& material,
                          const std::set<std::string>& materials) {
  if (material != kUnassignedId && !materials.contains(material))
    checks.add(refuse(at + "/material", fmt::format("there is no material \"{:.80}\"", material),
                      "the id of a listed material, or null"));
}

inline void checkBand(Checks& checks, const std::string& at, const Band& band, bool last,
                      const std::set<std::string>& materials) {
  checks.add(checkId(at + "/id", band.id));
  if (last && band.below)
    checks.add(refuse(at + "/below", "the last band has an upper end, so higher ground has no band",
                      "no \"below\" in the last band"));
  if (!last && !band.below)
    checks.add(refuse(at, "this band has no upper end but others follow",
                      "\"below\" in every band but the last"));
  checkThreshold(checks, at + "/below", band.below);
  checks.add(checkNumber(at + "/edge/width", band.edge.width, limits::edgeWidth));
  checks.add(checkNumber(at + "/edge/feature", band.edge.feature, limits::width));
  checkMaterial(checks, at, band.material, materials);
}

inline void checkBands(Checks& checks, const std::string& at, const std::vector<Band>& bands,
                       const std::set<std::string>& materials) {
  std::set<std::string> ids;
  for (size_t i = 0; i < bands.size() && checks.ok(); ++i) {
    const std::string one = fmt::format("{}/{}", at, i);
    checkBand(checks, one, bands[i], i + 1 == bands.size(), materials);
    if (!ids.insert(bands[i].id).second)
      checks.add(refuse(one + "/id", fmt::format("\"{}\" is taken", bands[i].id),
                        "an id that no other band has"));
  }
}

/// The Biomes stage. materials: ids of the recipe's table.
void checkBiomes(Checks& checks, const Recipe& recipe, const std::set<std::string>& materials);

/// Ground made of blocks: overhangs, layers, rock, ores, the sea's material.
void checkBlocks(Checks& checks, const Recipe& recipe, const std::set<std::string>& materials);
void checkLayers(Checks& checks, const std::string& at, const Recipe& recipe,
                 const std::vector<DepthLayer>& layers, const std::set<std::string>& materials);

/// The level, and the frame and stages of worlds of that kind.
void checkLevel(Checks& checks, const Recipe& recipe, const std::set<std::string>& materials);

/// Caves.
void checkCaves(Checks& checks, const Recipe& recipe, const std::set<std::string>& materials);

}  // namespace acre
