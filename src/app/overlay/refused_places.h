/// Places that were drawn for objects and refused.
#pragma once

#include <array>
#include <stop_token>
#include <vector>

#include "app/overlay/overlay.h"
#include "world/object_pass.h"

namespace app {

/// A small cross at each, in the ink of its first reason; a legend says how many each refuses.
class RefusedPlaces : public MapOverlay {
 public:
  static constexpr size_t kMost = 8'000;
  /// Coarsest view that shows them, in cells a pixel.
  static constexpr double kCoarsest = 1;

  /// Nothing when stopped, or in a world without objects.
  static std::shared_ptr<const MapOverlay> make(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop);
  static QColor inkOf(acre::Refusal refusal);

  void paint(QPainter& p, const MapGeometry& view) const override;
  QString at(QPointF place, const MapGeometry& view) const override;
  QString spoken() const override;

  /// Of all in view, by reason.
  const std::array<size_t, acre::kRefusals>& counts() const { return counts_; }

 private:
  struct Place {
    acre::Cell cell;
    size_t kind;
    acre::Refusal refusal;
  };
  size_t sum() const;  ///< Of all in view, those that are not drawn included.

  std::vector<QString> names_;  ///< Of kinds.
  std::vector<Place> places_;
  std::array<size_t, acre::kRefusals> counts_{};
};

}  // namespace app
