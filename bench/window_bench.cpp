// The real window under load: how soon a change of the recipe is on screen, and whether the event
// loop ever waits. Runs in a real window, or with QT_QPA_PLATFORM=offscreen. See bench/README.md.
#include <QApplication>
#include <QElapsedTimer>
#include <QTest>
#include <QTimer>
#include <algorithm>
#include <cstdio>
#include <functional>
#include <map>
#include <vector>

#include "app/edit/histogram.h"
#include "app/hand/hand_drawer.h"
#include "app/look/look.h"
#include "app/window/main_window.h"
#include "textbook.h"

using namespace app;

namespace {

class Silent : public Dialogs {
  QString openFile(QWidget*, const QString&, const QString&) override { return {}; }
  QString saveFile(QWidget*, const QString&, const QString&, const QString&) override { return {}; }
  Unsaved askUnsaved(QWidget*, const QString&) override { return Unsaved::Discard; }
  std::optional<QString> askText(
      QWidget*, const QString&, const QString&, const QString&) override {
    return {};
  }
  void tell(QWidget*, const QString&, const QString&) override {}
};

double millis(const QElapsedTimer& clock) {
  return static_cast<double>(clock.nsecsElapsed()) / 1e6;
}

/// Notes what the interface thread was busy with whenever one event took long.
class Watched : public QApplication {
 public:
  using QApplication::QApplication;

  bool notify(QObject* receiver, QEvent* event) override {
    const QString what = QStringLiteral("%1, event %2")
                             .arg(QLatin1String(receiver->metaObject()->className()))
                             .arg(event->type());
    QElapsedTimer clock;
    clock.start();
    const bool result = QApplication::notify(receiver, event);
    if (const double time = millis(clock); time > 4) {
      auto& [count, worst] = long_[what];
      ++count;
      worst = std::max(worst, time);
    }
    return result;
  }
  void print() {
    for (const auto& [what, found] : long_)
      std::printf("   over 4 ms: %3d times, worst %6.2f ms: %s\n", found.first, found.second,
          qPrintable(what));
    long_.clear();
  }

 private:
  std::map<QString, std::pair<int, double>> long_;
};

/// Longest times between two turns of the event loop, seen by a timer that is due every millisecond
/// (the interface sleeps in between, as it does when somebody drags).
class Gaps {
 public:
  Gaps() {
    QObject::connect(&timer_, &QTimer::timeout, [this] {
      gaps_.push_back(millis(clock_));
      clock_.restart();
    });
  }
  void start() {
    gaps_.clear();
    clock_.start();
    timer_.setTimerType(Qt::PreciseTimer);
    timer_.start(1);
  }
  void print(const char* what) {
    timer_.stop();
    std::sort(gaps_.begin(), gaps_.end());
    const auto at = [&](double q) {
      return gaps_[static_cast<size_t>(q * static_cast<double>(gaps_.size() - 1))];
    };
    std::printf(
        "%-36s median %6.2f ms   99 %% %6.2f ms   worst %6.2f ms   over 16 ms: %lld of %zu turns\n",
        what, at(0.5), at(0.99), gaps_.back(),
        static_cast<long long>(gaps_.end() - std::upper_bound(gaps_.begin(), gaps_.end(), 16.0)),
        gaps_.size());
    // The histogram: how many turns took up to so many milliseconds.
    for (const double edge : {1.0, 2.0, 4.0, 8.0, 16.0, 1e9}) {
      static double last = 0;
      const auto n = std::count_if(
          gaps_.begin(), gaps_.end(), [&](double g) { return g > last && g <= edge; });
      if (edge < 1e9)
        std::printf("   up to %2.0f ms: %lld", edge, static_cast<long long>(n));
      else
        std::printf("   more: %lld\n", static_cast<long long>(n));
      last = edge < 1e9 ? edge : 0;
    }
  }

 private:
  QTimer timer_;
  QElapsedTimer clock_;
  std::vector<double> gaps_;
};

/// A fixed piece of arithmetic, to compare machines: the time of a million textbook samples.
double calibration() {
  const textbook::Gradient2 noise(1);
  QElapsedTimer clock;
  clock.start();
  float sum = 0;
  for (int i = 0; i < 1'000'000; ++i)
    sum += noise.at(static_cast<float>(i % 1000) * 0.01f, static_cast<float>(i) * 1e-5f);
  const double time = millis(clock);
  return sum == 12345 ? 0 : time;
}

using Gesture = std::function<void(const char*, const std::function<void()>&)>;

/// One hand at a time, some tens of milliseconds between its moves, as people move it.
void gesturesOf(MainWindow& window, const Gesture& gesture) {
  MapView& map = window.map();
  const auto middle = [&] { return map.pictureRect().center(); };
  const auto over = [&](QWidget* widget, QPoint from, QPoint step, int count) {
    for (int k = 0; k < count; ++k) {
      QTest::mouseMove(widget, from + step * k);
      QTest::qWait(20);
    }
  };
  gesture("stakes: a held key", [&] {
    QTest::keyClick(&map, Qt::Key_5);
    auto* histogram = window.findChild<Histogram*>(QStringLiteral("strata.histogram"));
    while (!window.statistics().current()) QTest::qWait(5);
    histogram->setFocus();
    for (int k = 0; k < 60; ++k) {
      QTest::keyPress(histogram, k < 30 ? Qt::Key_Right : Qt::Key_Left);
      QTest::qWait(25);
    }
    window.document().endGesture();
  });
  gesture("chart: an edge dragged", [&] {
    map.setFocus();
    QTest::keyClick(&map, Qt::Key_4);
    while (!window.statistics().chart()) QTest::qWait(5);
    ChartView& chart = window.biomes().chart();
    const QPoint at = chart.rect().center();
    QTest::mousePress(&chart, Qt::LeftButton, {}, at);
    over(&chart, at, {2, 1}, 40);
    QTest::mouseRelease(&chart, Qt::LeftButton, {}, at + QPoint(80, 40));
    window.document().undoStack().undo();
  });
  window.openWorld(QStringLiteral("swallet-edge"));
  gesture("caves: the pointer over them", [&] {
    over(&map, middle() - QPoint(200, 80), {5, 2}, 80);
  });
  gesture("caves: plumb lines hung", [&] {
    for (int k = 0; k < 20; ++k) {
      QTest::mouseClick(&map, Qt::LeftButton, {}, middle() + QPoint(12 * k - 120, 7 * k - 70));
      QTest::qWait(60);
    }
    QTest::keyClick(&map, Qt::Key_Escape);
  });
  window.openWorld(QStringLiteral("patchwork-parish"));
  gesture("census: counted while panning", [&] {
    window.drawers().open(QStringLiteral("census"));
    for (int k = 0; k < 60; ++k) {
      map.goTo({k * 40, k * 13});
      QTest::qWait(20);
    }
    window.drawers().open({});
  });
  gesture("brush: long strokes", [&] {
    window.drawers().open(QStringLiteral("hand"));
    auto* brush = window.findChild<NumberField*>(QStringLiteral("hand.brush"));
    brush->setValue(32);
    for (int k = 0; k < 12; ++k) {
      emit map.painted(k * 300, -200, k * 300 + 4000, 2600);
      QTest::qWait(40);
    }
    emit map.paintingEnded();
    while (!window.findChild<HandDrawer*>()->settled()) QTest::qWait(5);
  });
}

}  // namespace

int main(int argc, char** argv) {
  Watched application(argc, argv);
  look::apply(application, false);
  acre::EngineOptions options;
  options.threads = 2;
  const auto engine = std::move(acre::Engine::create(options)).value();
  QTemporaryDir dir;
  Settings settings(dir.filePath(QStringLiteral("s.ini")));
  Silent dialogs;
  MainWindow window(*engine, settings, dialogs);
  window.openWorld(QStringLiteral("saltfen-reach"));
  window.resize(1280, 800);
  window.show();
  MapView& map = window.map();
  const auto settle = [&] {
    while (!window.document().current() || !map.settled())
      QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents);
  };
  settle();
  std::printf("calibration: %.1f ms for a million textbook samples\n", calibration());

  // One number dragged: the time until the coarse and the sharp picture of the whole view are
  // there.
  std::vector<double> coarse, sharp;
  Gaps gaps;
  gaps.start();
  for (int i = 0; i < 100; ++i) {
    acre::Recipe next = window.document().recipe();
    std::get<acre::NoiseSource>(next.heights.layers[0].source).width = 900 - 5 * i;
    QElapsedTimer clock;
    clock.start();
    window.document().change(QStringLiteral("Width"), next, QStringLiteral("width"));
    while (!window.document().current() || !map.tiles().current())
      QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents);
    coarse.push_back(millis(clock));
    settle();
    sharp.push_back(millis(clock));
  }
  const auto print = [](const char* what, std::vector<double> times, double target) {
    std::sort(times.begin(), times.end());
    std::printf("%-36s median %6.2f ms   99 %% %6.2f ms   worst %6.2f ms   target %.0f ms\n", what,
        times[times.size() / 2], times[times.size() * 99 / 100], times.back(), target);
  };
  print("drag: coarse picture", coarse, 50);
  print("drag: sharp picture", sharp, 300);
  gaps.print("drag: event loop");
  application.print();

  // The viewpoint driven for three seconds.
  map.setFocus();
  gaps.start();
  QTest::keyPress(&map, Qt::Key_Right);
  QTest::qWait(3000);
  QTest::keyRelease(&map, Qt::Key_Right);
  gaps.print("drive: event loop");
  application.print();
  const auto gesture = [&](const char* what, const std::function<void()>& act) {
    settle();
    gaps.start();
    act();
    gaps.print(what);
    application.print();
  };
  gesturesOf(window, gesture);
  return 0;
}
