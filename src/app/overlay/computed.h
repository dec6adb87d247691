/// Overlays that are worked out anew whenever the world or the view changes.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/map/map_view.h"
#include "app/overlay/overlay.h"

namespace app {

/// One of them, while it is switched on: made off the interface's thread, and shown in its place
/// among the map's overlays as soon as it is there. While the map glides along one is made after
/// the other, so that something of it is always seen.
class ComputedOverlay : public QObject {
  Q_OBJECT

 public:
  /// Nothing when stopped, or when there is nothing to show.
  using Make = std::function<std::shared_ptr<const MapOverlay>(
      const acre::World& world, const MapGeometry& view, const std::stop_token& stop)>;

  ComputedOverlay(Document& document, MapView& map, Over place, Make make);
  ~ComputedOverlay() override;

  void setOn(bool on);
  bool on() const { return on_; }
  /// It shows the world and the view that the map does.
  bool settled() const { return shown_ == request_; }

 private:
  void refresh();
  void start();
  /// What is in work will do until the next one is made.
  bool serves() const;

  Document& document_;
  MapView& map_;
  Over place_;
  Make make_;
  std::shared_ptr<Courier<ComputedOverlay>> courier_;
  std::stop_source stop_;
  uint64_t request_ = 0, shown_ = 0;
  uint64_t working_ = 0;  ///< The request in work; 0: none.
  std::shared_ptr<const acre::World> world_;
  MapGeometry view_;  ///< Of what is in work.
  bool on_ = false;
};

}  // namespace app
