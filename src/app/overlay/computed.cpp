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
    working_ = 0;
    shown_ = ++request_;
    map_.overlays().set(place_, nullptr);
  }
  refresh();
}

bool ComputedOverlay::serves() const {
  return working_ != 0 && world_ == map_.world() &&
         view_.cellsPerPixel == map_.geometry().cellsPerPixel &&
         !acre::intersection(view_.cells(), map_.geometry().cells()).empty();
}

void ComputedOverlay::refresh() {
  if (!on_ || !map_.world() || map_.geometry().size.isEmpty()) return;
  ++request_;
  if (!serves()) start();
}

void ComputedOverlay::start() {
  stop_.request_stop();
  stop_ = {};
  working_ = request_;
  world_ = map_.world();
  view_ = map_.geometry();
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, make = make_, world = world_, view = view_, request = request_,
          stop = stop_.get_token()] {
        auto made = make(*world, view, stop);
        if (stop.stop_requested()) return;
        courier->deliver([made, request](ComputedOverlay& self) {
          if (request != self.working_) return;
          self.working_ = 0;
          self.world_.reset();
          self.shown_ = request;
          self.map_.overlays().set(self.place_, made);
          if (request != self.request_) self.start();
        });
      });
}

}  // namespace app

#include "moc_computed.cpp"
