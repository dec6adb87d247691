#include "app/overlay/computed.h"

namespace app {

ComputedOverlay::ComputedOverlay(Document& document, MapView& map, Over place, Make make)
    : QObject(&map),
      document_(document),
      map_(map),
      place_(place),
      make_(std::move(make)),
      courier_(std::make_shared<Courier<ComputedOverlay>>(this)) {
  connect(&map_, &MapView::worldShown, this, &ComputedOverlay::refresh);
  connect(&map_, &MapView::viewChanged, this, &ComputedOverlay::refresh);
}

ComputedOverlay::~ComputedOverlay() {
  courier_->close();
  stop_.request_stop();
}

void ComputedOverlay::setOn(bool on) {
  on_ = on;
  if (!on) {
    stop_.request_stop();
    shown_ = ++request_;
    map_.overlays().set(place_, nullptr);
  }
  refresh();
}

void ComputedOverlay::refresh() {
  if (!on_ || !map_.world() || map_.geometry().size.isEmpty()) return;
  stop_.request_stop();
  stop_ = {};
  document_.engine().executor().submit(acre::Priority::Statistics,
      [courier = courier_, make = make_, world = map_.world(), view = map_.geometry(),
          request = ++request_, stop = stop_.get_token()] {
        if (stop.stop_requested()) return;
        auto made = make(*world, view, stop);
        if (stop.stop_requested()) return;
        courier->deliver([made, request](ComputedOverlay& self) {
          if (request != self.request_) return;
          self.shown_ = request;
          self.map_.overlays().set(self.place_, made);
        });
      });
}

}  // namespace app
