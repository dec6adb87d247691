/// What the pen adds to the ground at close zoom: a coast line along the sides of cells, and
/// sparing signs of what the ground is.
#pragma once

#include <QImage>
#include <memory>
#include <stop_token>

#include "app/overlay/overlay.h"
#include "recipe/recipe.h"

namespace acre {
class World;
}  // namespace acre

namespace app {

/// The sign of a material follows from its ink and its state: blades where it is green and can be
/// walked on, rings where it is green and solid, dashes where it is dark, strokes where it is grey,
/// short waves on water, dots elsewhere.
enum class PenSign { Dots, Blades, Rings, Dashes, Strokes, Waves };
PenSign penSignOf(const acre::Material& material);

class PenSigns : public MapOverlay {
 public:
  static constexpr double kFewestPixels = 5;  ///< A cell, that signs are drawn from.

  /// Nothing farther out, where tiles are drawn instead, and in side worlds. Signs stand where the
  /// cell's own hash says so, whatever part of the world is seen.
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);

  void paint(QPainter& p, const MapGeometry& view) const override;

 private:
  acre::Rect cells_;
  double cellsPerPixel_ = 1;
  QImage picture_;
};

}  // namespace app
