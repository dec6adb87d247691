/// What an editor tells of the part of the world that is in view.
#pragma once

#include <QTimer>
#include <QWidget>
#include <functional>
#include <memory>
#include <optional>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/edit/editor.h"
#include "app/map/geometry.h"
#include "world/plan.h"

namespace app {

/// Figures of the present world and view: measured off the interface's thread once the map stands
/// still, while the owner is seen. A member of its owner.
template <class Found>
class ViewFigures final : public ViewFollower {
 public:
  struct How {
    /// What of a view is measured.
    std::function<acre::Rect(const acre::Rect&)> part;
    /// Whether a world has anything of it.
    std::function<bool(const acre::World&)> any;
    /// Off the interface's thread; nothing: it was stopped, or cannot be measured.
    std::function<std::optional<Found>(
        const acre::World&, const acre::Rect&, const std::stop_token&)>
        measure;
    /// The owner shows what is there now; fresh: other figures than before.
    std::function<void(bool fresh)> show;
  };

  ViewFigures(QWidget* owner, Document& document, How how)
      : owner_(owner),
        document_(document),
        how_(std::move(how)),
        pause_(new QTimer(owner)),
        courier_(std::make_shared<Courier<QWidget>>(owner)) {
    pause_->setSingleShot(true);
    pause_->setInterval(kPause);
    QObject::connect(pause_, &QTimer::timeout, owner, [this] { refresh(); });
  }
  ~ViewFigures() override {
    courier_->close();
    stop_.request_stop();
  }
  ViewFigures(const ViewFigures&) = delete;
  ViewFigures& operator=(const ViewFigures&) = delete;

  void setView(const MapGeometry& view) override {
    view_ = view;
    if (owner_->isVisible()) pause_->start();
  }
  /// Measures, unless it is known, and shows.
  void refresh() override {
    pause_->stop();
    const auto& world = document_.world();
    if (!view_ || !world) return;
    const acre::Rect cells = intersection(view_->cells(), planOf(*world).bounds());
    const acre::Rect area = how_.part(cells);
    if (measured_ == world && area_ == area) return how_.show(false);
    stop_.request_stop();
    stop_ = {};
    measured_ = world;
    area_ = area;
    part_ = area != cells;
    measuring_ = !area.empty() && how_.any(*world);
    if (!measuring_) {
      found_.reset();
      return how_.show(true);
    }
    document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
        [this, courier = courier_, measure = how_.measure, world, area, stop = stop_.get_token()] {
          auto found = measure(*world, area, stop);
          courier->deliver([this, stop, found = std::move(found)](QWidget&) {
            if (stop.stop_requested()) return;
            measuring_ = false;
            found_ = found;
            how_.show(true);
          });
        });
    how_.show(false);
  }
  /// The owner is seen no longer.
  void hide() override {
    pause_->stop();
    if (!measuring_) return;
    stop_.request_stop();
    measuring_ = false;
    measured_.reset();
  }

  bool measuring() const { return measuring_; }
  /// They are those of the present world and view.
  bool settled() const { return !measuring_ && !pause_->isActive(); }
  /// Nothing before they were measured once, or where there are none.
  const std::optional<Found>& found() const { return found_; }
  const acre::Rect& area() const { return area_; }
  /// The view is larger than what is measured.
  bool isPart() const { return part_; }

 private:
  static constexpr int kPause = 250;  // Milliseconds that the map stands still before.

  QWidget* owner_;
  Document& document_;
  How how_;
  QTimer* pause_;
  std::shared_ptr<Courier<QWidget>> courier_;
  std::stop_source stop_;
  std::optional<MapGeometry> view_;
  std::shared_ptr<const acre::World> measured_;
  acre::Rect area_;
  std::optional<Found> found_;
  bool measuring_ = false, part_ = false;
};

}  // namespace app
