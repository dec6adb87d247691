/// Pictures of the world for the map: coarse at once, then sharp tile by tile, made by the
/// executor.
#pragma once

#include <QImage>
#include <QObject>
#include <map>
#include <memory>
#include <stop_token>
#include <vector>

#include "app/document/courier.h"
#include "app/map/geometry.h"
#include "base/budget.h"
#include "output/picture.h"
#include "world/engine.h"

namespace app {

/// Tiles of 256 x 256 samples of one level (2^level cells apart), aligned to multiples, so that
/// pictures do not crawl. All members are called from the interface thread.
class TileStore : public QObject {
  Q_OBJECT

 public:
  static constexpr int kTile = 256;
  static constexpr int kCoarser = 8;  ///< The coarse picture takes every eighth sample.

  explicit TileStore(acre::Engine& engine, QObject* parent = nullptr);
  ~TileStore() override;

  /// Another world, picture or view. Work for the former ones stops; the pictures that are shown
  /// stay until the new coarse one is whole.
  void show(std::shared_ptr<const acre::World> world, const acre::Picture& picture,
      const acre::Style& style);
  void look(const MapGeometry& geometry);

  struct Key {
    int level;
    int64_t tx;
    int64_t tz;
    auto operator<=>(const Key&) const = default;
  };
  struct Tile {
    QImage image;
    bool holes = false;  ///< Some pixels are transparent: unassigned cells, hatched by the view.
    uint64_t lastUse = 0;
    acre::MemoryBudget::Reservation bytes;
  };
  /// One picture of the whole view, coarser than its level.
  struct Coarse {
    QImage image;
    bool holes = false;
    int64_t x = 0, z = 0;  ///< Cell of the first sample.
    int64_t step = 1;
  };

  const std::map<Key, Tile>& tiles() const { return tiles_; }
  const Coarse& coarse() const { return coarse_; }
  /// Coarser still, and twice as wide and high as the view: what a step outward shows at once.
  const Coarse& surround() const { return surround_; }
  /// Tiles of the view that are still missing.
  int pending() const { return static_cast<int>(wanted_.size()); }
  /// True when the pictures are those of the world shown last (not of the one before).
  bool current() const { return shownEpoch_ == epoch_; }

 signals:
  void updated();                                ///< All that is shown may be new.
  void arrived(const app::TileStore::Key& key);  ///< One more tile.
  void finished();                               ///< Nothing is pending any more.

 private:
  struct Job;
  class LatePalette;
  /// Ground: sharp tiles before the rivers and objects in them are found.
  enum class Kind { Sharp, Ground, Coarse, Surround };
  /// What shows at once where rivers and objects are not found yet; else the picture itself.
  acre::Picture atOnce(const acre::SampleGrid& grid) const;
  void submit(
      Kind kind, const Key& key, const acre::SampleGrid& grid, const acre::Picture& picture);
  void requestCoarse(Kind kind);
  void requestOverviews();
  void requestTiles();
  void file(const Job& job);
  void evict(const std::vector<Key>& visible);
  std::vector<Key> visibleTiles() const;

  acre::Engine& engine_;
  std::shared_ptr<Courier<TileStore>> courier_;
  std::shared_ptr<const acre::World> world_;
  std::shared_ptr<LatePalette> palette_;
  acre::Picture picture_;
  MapGeometry geometry_;
  bool haveGeometry_ = false;
  std::stop_source stop_;
  uint64_t epoch_ = 0;
  uint64_t shownEpoch_ = 0;
  uint64_t clock_ = 0;
  std::map<Key, Tile> tiles_;
  std::map<Key, bool> wanted_;  // Asked for and not arrived.
  Coarse coarse_, surround_;
  acre::SampleGrid coarseAsked_, surroundAsked_;  // Of this epoch; width 0: nothing yet.
};

}  // namespace app
