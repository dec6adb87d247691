/// Draws walk views on a thread of its own, the newest wish first.
#pragma once

#include <QImage>
#include <condition_variable>
#include <functional>
#include <mutex>
#include <optional>
#include <thread>

#include "view/scene.h"

namespace app {

class Draughtsman {
 public:
  struct Wish {
    std::shared_ptr<const acre::Scene> scene;
    acre::Eye eye;
    acre::ViewStyle style;
    QSize size;  ///< Pixels.
  };
  struct Drawing {
    QImage image;
    acre::Eye eye;
    double millis = 0;
    uint64_t drawn = 0;
  };

  /// done: called on the drawing thread.
  explicit Draughtsman(std::function<void(Drawing)> done);
  ~Draughtsman();  ///< Finishes the drawing in hand.

  /// Replaces a wish that was not begun.
  void draw(Wish wish);

 private:
  void work();

  std::function<void(Drawing)> done_;
  std::mutex mutex_;
  std::condition_variable wake_;
  std::optional<Wish> wish_;
  bool over_ = false;
  std::thread thread_;
};

}  // namespace app
