/// A compiled field: a stack of layers as a function of place.
#pragma once

#include <memory>
#include <stop_token>
#include <string>
#include <variant>
#include <vector>

#include "base/hash.h"
#include "base/result.h"
#include "field/fresh_water.h"
#include "field/picture_data.h"
#include "field/skyline.h"
#include "field/tables.h"
#include "field/water_distance.h"
#include "noise/kernels.h"
#include "recipe/recipe.h"

namespace acre {

class Field;

/// A point on the map that ramps, distances, islands and pictures are measured from.
struct Anchor {
  Pos x;
  Pos z;
};

/// One layer, compiled: where its value comes from and what is done to it.
struct FieldStep {
  struct Ramp {
    int axis;
    Pos from;
    double length;
  };
  struct Distance {
    Anchor at;
    double reach;
  };
  struct Island {
    bool square;
    Anchor at;
    double radius;
    double edge;
    float wobble;
    NoisePlan outline;
  };
  struct Picture {
    std::shared_ptr<const GreyPicture> grey;
    Anchor at;
    double scale;
    bool smooth;
    PictureSource::Outside outside;
    float outsideValue;
  };
  struct Terrace {
    float height;
    float flat;
  };
  struct Fold {
    float centre;
  };
  struct Rescale {
    float from;
    float factor;
    float to;
  };
  struct Sum {};  ///< The sum before, for equalising.
  struct Latitude {
    Pos equator;
    double reach;
  };
  struct Altitude {
    std::shared_ptr<const Field> heights;
    float sea;
  };
  using Water = std::shared_ptr<const WaterDistance>;
  using Walk = std::shared_ptr<const Skyline>;
  struct Fresh {
    std::shared_ptr<const FreshWater> of;
    FreshWater::Tells tells;
  };
  using Value =
      std::variant<NoisePlan, float, Ramp, Distance, Island, Picture, std::shared_ptr<const Field>,
          Terrace, Fold, Rescale, Sum, Latitude, Altitude, Water, Walk, Fresh>;
  struct Warp {
    NoisePlan x;
    NoisePlan z;
    NoisePlan y;  ///< Three dimensions only.
    float cells;
    int passes;
  };
  struct Mask {
    std::shared_ptr<const Field> field;
    MaskEnds ends;
  };

  std::string id;
  Combine combine = Combine::Add;
  float amount = 0;
  Value value;
  Pos shift[3];  ///< Sampling offset of sources other than noise.
  std::optional<Warp> warp;
  std::shared_ptr<const QuantileTable> distribution;  ///< Equalised through this.
  std::shared_ptr<const CurveTable> curve;
  float amplitude = 1;
  float offset = 0;
  std::optional<std::pair<float, float>> clamp;
  std::optional<Mask> mask;

  /// Takes the sum before it as its input.
  bool reshapes() const {
    return std::holds_alternative<Terrace>(value) || std::holds_alternative<Fold>(value) ||
           std::holds_alternative<Rescale>(value) || std::holds_alternative<Sum>(value);
  }
};

/// Values of a field over a grid that are there already, for fields that read it.
struct KnownValues {
  const Field* field = nullptr;
  SampleGrid grid;
  const float* values = nullptr;  ///< Value (i, j) at j * stride + i.
  ptrdiff_t stride = 0;

  /// Copies a part of the grid, rows close together; false when it is another field or grid.
  bool copy(const Field* of, const SampleGrid& part, float* out) const;
};

/// Immutable and thread-safe. Layers are joined in order to a sum that starts at 0; switched-off
/// layers take no part. Point, row, tile, block and strided queries give the same bits.
class Field {
 public:
  /// Values of all samples of a grid: out[j*stride + i]. Polls `stop` at least between layers of a
  /// tile; false when it was stopped early. Two dimensions only.
  /// known: what need not be computed again.
  bool evaluate(const Kernels& kernels, const SampleGrid& grid, float* out, ptrdiff_t stride,
      const std::stop_token& stop = {}, const KnownValues& known = {}) const;

  /// Values of all samples of a block, x fastest, then z, then y. Three dimensions only.
  bool evaluate(const Kernels& kernels, const SampleBlock& block, float* out,
      const std::stop_token& stop = {}) const;

  /// What one step brings over a grid, before it joins the sum. Two dimensions only.
  bool evaluateStep(const Kernels& kernels, size_t step, const SampleGrid& grid, float* out,
      ptrdiff_t stride, const std::stop_token& stop = {}) const;

  /// Values at any number of places. q of the places: 0 ... 65535.
  void points(const Kernels& kernels, const Points& places, float* out) const;

  /// The value at one place, by the plain scalar code.
  float at(Pos x, Pos z) const;

  const Digest& key() const { return key_; }
  int dims() const { return dims_; }
  const std::vector<FieldStep>& steps() const { return steps_; }
  /// Place of a layer among the steps; -1 when it is off or unknown.
  int stepOf(const std::string& layerId) const;
  /// Widest feature of any noise in the field and in those that it reads; 1 without noise.
  double widestFeature() const { return widest_; }

  /// The sum after the layers before the curve and clamp, at up to Kernels::kMostPoints places.
  void sumPoints(const Kernels& kernels, const Points& places, size_t steps, float* out) const;
  /// What a step brings at those places, given the sum before it. Amplitude and all are applied.
  void stepValues(const Kernels& kernels, const FieldStep& step, const Points& places,
      const float* before, float* out) const;
  /// How far the step's mask lets it act, 0 ... 1.
  void stepWeights(
      const Kernels& kernels, const FieldStep& step, const Points& places, float* out) const;
  /// The sum after a step from the sum before, its value and its weight (nullptr: 1).
  static void joinStep(const Kernels& kernels, const FieldStep& step, float* sum,
      const float* value, const float* weight, int count);
  /// The curve and clamp of the field itself.
  void finish(const Kernels& kernels, float* values, int count) const;

 private:
  friend class FieldCompiler;
  bool tile(const Kernels& kernels, const SampleGrid& grid, float* out, ptrdiff_t stride,
      const std::stop_token& stop, const KnownValues& known) const;
  bool tile(const Kernels& kernels, const SampleGrid& grid, size_t steps, float* out,
      ptrdiff_t stride, const std::stop_token& stop, const KnownValues& known) const;
  bool stepTile(const Kernels& kernels, const FieldStep& step, const SampleGrid& grid, float* out,
      ptrdiff_t stride, const std::stop_token& stop, const KnownValues& known) const;
  bool valueTile(const Kernels& kernels, const FieldStep& step, const SampleGrid& grid,
      const float* before, ptrdiff_t stride, float* values, const std::stop_token& stop,
      const KnownValues& known) const;
  bool patchTile(const Kernels& kernels, const FieldStep& step, const SampleGrid& grid,
      float* values, const std::stop_token& stop) const;
  void sourcePoints(const Kernels& kernels, const FieldStep& step, const Points& places,
      const float* before, float* out) const;
  void sourceAt(const Kernels& kernels, const FieldStep& step, const Points& places,
      const float* before, float* out) const;
  void dress(const Kernels& kernels, const FieldStep& step, float* values, int count) const;

  Digest key_;
  int dims_ = 2;
  std::vector<FieldStep> steps_;
  std::shared_ptr<const CurveTable> curve_;
  std::optional<std::pair<float, float>> clamp_;
  double widest_ = 1;
};

}  // namespace acre
