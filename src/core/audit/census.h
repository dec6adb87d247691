/// What a field or layer is like, over a sample of the world.
#pragma once

#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "audit/area_census.h"
#include "field/distribution.h"
#include "world/engine.h"

namespace acre {

/// The noise octaves of a layer, widest first.
struct OctaveFigure {
  double width = 0;     ///< Feature width in cells.
  double weight = 0;    ///< Amplitude of the octave in the field's unit.
  bool narrow = false;  ///< Below two cells: samples one cell apart see static.
};

/// What a field or one layer of it is like, over a stated sample.
struct FieldFigures {
  std::string id;
  std::string name;
  double low = 0, high = 0, mean = 0;
  size_t samples = 0;
  bool exact = false;  ///< Every cell of a bounded world was counted.
  /// Share of steps between neighbouring cells (one east, one south) that change the floored value
  /// by more than one: the holes that columns of whole cells would leave.
  double rough = 0;
  std::vector<OctaveFigure> octaves;  ///< Of a layer of noise.
  std::vector<uint32_t> histogram;    ///< kBins equal parts of [low, high].
  double nanosPerCell = 0;            ///< Of a 256 x 64 tile on one thread, here and now.
  std::string source;                 ///< "gradient, fBm", …
  static constexpr int kBins = 128;
};

/// What a layer is made of, in words: "ridged gradient".
std::string sourceWords(const Source& source);
/// Octaves of a source; empty for anything but noise.
std::vector<OctaveFigure> octavesOf(const Layer& layer);

/// Figures of a whole field. Nothing when stopped.
std::optional<FieldFigures> figuresOf(
    Engine& engine, const World& world, const FieldRecipe& field, const std::stop_token& stop = {});
/// Figures of what one layer brings (before it joins), over every fourth stratum: 4,096 places.
std::optional<FieldFigures> layerFigures(const World& world, const FieldRecipe& field,
    const std::string& layerId, const std::stop_token& stop = {});

}  // namespace acre
