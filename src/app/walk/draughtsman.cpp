#include "app/walk/draughtsman.h"

#include <QElapsedTimer>

#include "app/map/painted.h"

namespace app {

Draughtsman::Draughtsman(std::function<void(Drawing)> done)
    : done_(std::move(done)), thread_([this] { work(); }) {}

Draughtsman::~Draughtsman() {
  {
    const std::lock_guard lock(mutex_);
    over_ = true;
  }
  wake_.notify_one();
  thread_.join();
}

void Draughtsman::draw(Wish wish) {
  {
    const std::lock_guard lock(mutex_);
    wish_ = std::move(wish);
  }
  wake_.notify_one();
}

void Draughtsman::work() {
  acre::ViewPicture picture;
  while (true) {
    Wish wish;
    {
      std::unique_lock lock(mutex_);
      wake_.wait(lock, [&] { return over_ || wish_; });
      if (over_) return;
      wish = std::move(*wish_);
      wish_.reset();
    }
    QElapsedTimer clock;
    clock.start();
    picture.width = std::clamp(wish.size.width(), 1, 8192);
    picture.height = std::clamp(wish.size.height(), 1, 8192);
    acre::drawScene(*wish.scene, wish.eye, wish.style, picture);
    done_({imageOf(picture), wish.eye, static_cast<double>(clock.nsecsElapsed()) / 1e6,
        picture.drawn});
  }
}

}  // namespace app
