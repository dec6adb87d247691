/// Lights ground on the map by its outline: that of a biome, or that of a patch of the chart.
#pragma once

#include <QObject>
#include <QTimer>
#include <memory>
#include <stop_token>
#include <vector>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/map/map_view.h"

namespace app {

/// Keeps samples of what is in view, made by the executor whenever the view or the world changes,
/// so that an outline follows the pointer within a frame.
class LitGround : public QObject {
  Q_OBJECT

 public:
  LitGround(Document& document, MapView& map);
  ~LitGround() override;

  void lightBiome(acre::BiomeIndex biome);
  /// All ground in view whose chart values lie within `half` of the chart's width about a place,
  /// in one slice.
  void lightPatch(double x, double y, int slice, double half);
  void clear();
  /// How many samples of the view are lit.
  size_t litSamples() const { return lit_; }

 private:
  enum class What { Nothing, Biome, Patch };
  struct Ground {
    acre::SampleGrid grid;
    std::vector<acre::BiomeIndex> biomes;
    std::vector<uint16_t> slices;
    std::vector<float> x, y;
  };
  void request();
  void draw();

  Document& document_;
  MapView& map_;
  std::shared_ptr<Courier<LitGround>> courier_;
  std::stop_source stop_;
  QTimer pause_;
  uint64_t request_ = 0;
  std::shared_ptr<const Ground> ground_;
  What what_ = What::Nothing;
  acre::BiomeIndex biome_ = 0;
  double x_ = 0, y_ = 0, halfX_ = 0, halfY_ = 0;
  int slice_ = 0;
  size_t lit_ = 0;
};

}  // namespace app
