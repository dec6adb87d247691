#include "app/traverse/traverse_run.h"

#include <chrono>

namespace app {

struct TraverseRun::Gate {
  std::mutex mutex;
  std::condition_variable_any opened;
  bool shut = false;
  void pass(const std::stop_token& stop) {
    std::unique_lock lock(mutex);
    opened.wait(lock, stop, [&] { return !shut; });
  }
};

TraverseRun::TraverseRun(acre::Engine& engine, QObject* parent)
    : QObject(parent),
      engine_(engine),
      courier_(std::make_shared<Courier<TraverseRun>>(this)),
      gate_(std::make_shared<Gate>()) {}

TraverseRun::~TraverseRun() {
  courier_->close();
  worker_.stop();
}

void TraverseRun::start(std::vector<Plan> plans, bool follow) {
  stop();
  running_ = true;
  const uint64_t request = ++request_;
  worker_.start([&engine = engine_, courier = courier_, gate = gate_, plans = std::move(plans),
                    follow, request](const std::stop_token& stop) {
    using Clock = std::chrono::steady_clock;
    std::vector<std::shared_ptr<const acre::World>> worlds;
    for (const Plan& plan : plans) {
      auto world = engine.compile(plan.recipe);
      const acre::Status fits =
          !world ? acre::Status(world.error())
                 : acre::checkTraverse(acre::planOf(**world), plan.column.settings);
      if (!fits) {
        courier->deliver(
            [request, name = QString::fromStdString(plan.column.name),
                reason = QString::fromStdString(fits.error().text())](TraverseRun& self) {
              if (request != self.request_) return;
              self.running_ = false;
              emit self.refused(name, reason);
            });
        return;
      }
      worlds.push_back(*world);
    }
    std::vector<acre::TraverseColumn> columns;
    for (size_t i = 0; i < plans.size() && !stop.stop_requested(); ++i) {
      acre::TraverseColumn column = plans[i].column;
      acre::addExtras(worlds[i], plans[i].collision, plans[i].objects, column.settings);
      const acre::TraverseSettings& s = column.settings;
      auto told = Clock::now() - std::chrono::seconds(1);
      column.report = acre::runTraverse(
          acre::planOf(worlds[i]), s, stop, [&](const acre::TraverseMoment& moment) {
            gate->pass(stop);
            if (Clock::now() - told < std::chrono::milliseconds(33)) return;
            told = Clock::now();
            auto scene = std::make_shared<TraverseScene>();
            scene->layout = planOf(*worlds[i]).layout();
            scene->bounds = planOf(*worlds[i]).bounds();
            scene->places = moment.stream.places();
            scene->view = moment.view;
            scene->viewDistance = s.stream.viewDistance;
            scene->follow = follow;
            const double share = (static_cast<double>(i) + moment.frame.seconds / s.seconds) /
                                 static_cast<double>(plans.size());
            courier->deliver([request, name = QString::fromStdString(column.name),
                                 frame = moment.frame, share, scene](TraverseRun& self) {
              if (request == self.request_)
                emit self.moved(name, frame.seconds, share, scene, frame.loaded, frame.missing);
            });
          });
      columns.push_back(std::move(column));
    }
    courier->deliver([request, columns = std::move(columns)](TraverseRun& self) {
      if (request != self.request_) return;
      self.running_ = false;
      emit self.finished(columns);
    });
  });
}

void TraverseRun::stop() {
  worker_.stop();
  setPaused(false);
}

void TraverseRun::setPaused(bool paused) {
  {
    const std::lock_guard lock(gate_->mutex);
    gate_->shut = paused;
  }
  gate_->opened.notify_all();
}

bool TraverseRun::paused() const {
  const std::lock_guard lock(gate_->mutex);
  return gate_->shut;
}

}  // namespace app

#include "moc_traverse_run.cpp"
