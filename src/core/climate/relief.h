/// What biomes do to the base height, blended over their borders.
#pragma once

#include <functional>
#include <vector>

#include "climate/chart.h"

namespace acre {

/// Relief at a place: weighted means of those of the biomes near it.
struct ReliefAt {
  float factor = 1;
  float raise = 0;
  float rough = 0;
};

/// The altitudes at which blended reliefs are kept: kCount knots evenly spaced over all that
/// decides, straight between them, level beyond. One knot when altitude decides nothing.
class AltitudeKnots {
 public:
  static constexpr int kCount = 33;
  AltitudeKnots() = default;
  AltitudeKnots(const Biomes& biomes, const std::vector<float>& sliceEnds, double seaLevel);

  int count() const { return count_; }
  /// Altitudes are averaged over so many half steps to either side of a knot.
  int blur() const { return blur_; }
  /// Altitude at half a step times k.
  float at(int halfSteps) const {
    return static_cast<float>(low_ + span_ * halfSteps / (2 * (kCount - 1)));
  }
  /// The knot at or before an altitude, and how far it is to the next, [0, 1].
  std::pair<int, float> place(float altitude) const;

 private:
  int count_ = 1;
  int blur_ = 0;
  double low_ = 0;
  double span_ = 0;
  float lowest_ = 0;
  float perCell_ = 0;
};

/// Reliefs of all biomes by index, the first that of no biome.
using Reliefs = std::vector<Relief>;
Reliefs reliefsOf(const Biomes& biomes);
/// True when any biome changes the height.
bool anyRelief(const Biomes& biomes);

/// A profile over altitude of the relief of one pair of chart values or one region: the mean at a
/// knot. biomeAt(altitude) tells what there is.
ReliefAt reliefAtKnot(const AltitudeKnots& knots, int knot, const Reliefs& reliefs,
    const std::function<BiomeIndex(float)>& biomeAt);

/// The whole chart blurred over the width of its borders: 65 x 65 knots of x and y by those of
/// altitude, trilinear between them. Blending is by distance on the chart.
class ReliefTable {
 public:
  static constexpr int kSide = 65;
  ReliefTable(const Chart& chart, const AltitudeKnots& knots, const Reliefs& reliefs,
      double borderWidth, const Kernels& kernels);

  ReliefAt at(float x, float y, float altitude) const;

 private:
  struct Knot {
    float v[4];  ///< factor, raise, rough, and one for alignment.
  };
  AltitudeKnots knots_;
  float lowX_, lowY_, perX_, perY_;
  std::vector<Knot> table_;
};

/// The height from the base height: r = base - sea; r * factor, and raise and rough * noise grown
/// over `coast`. What is below the sea stays below, what is not stays so.
float shapedHeight(float base, const ReliefAt& relief, float noise, float sea, float coast);

}  // namespace acre
