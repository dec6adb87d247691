// The real window under load: how soon a change of the recipe is on screen, and whether the event
// loop ever waits. Runs in a real window, or with QT_QPA_PLATFORM=offscreen. See bench/README.md.
#include <QApplication>
#include <QElapsedTimer>
#include <QTest>
#include <QTimer>
#include <algorithm>
#include <cstdio>
#include <ctime>
#include <functional>
#include <map>
#include <vector>

#include "app/edit/histogram.h"
#include "app/hand/hand_drawer.h"
#include "app/look/look.h"
#include "app/sheet/export_job.h"
#include "app/window/main_window.h"
#include "output/png.h"
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
    forget();
  }
  void forget() { long_.clear(); }

 private:
  std::map<QString, std::pair<int, double>> long_;
};

/// What the processor did for this thread so far.
double ownMillis() {
  timespec time{};
  clock_gettime(CLOCK_THREAD_CPUTIME_ID, &time);
  return static_cast<double>(time.tv_sec) * 1e3 + static_cast<double>(time.tv_nsec) / 1e6;
}

/// Longest times between two turns of the event loop, seen by a timer that is due every millisecond
/// (the interface sleeps in between, as it does when somebody drags).
class Gaps {
 public:
  Gaps() {
    QObject::connect(&timer_, &QTimer::timeout, [this] {
      gaps_.push_back(millis(clock_));
      clock_.restart();
      own_.push_back(ownMillis() - before_);
      before_ = ownMillis();
    });
  }
  void start() {
    gaps_.clear();
    own_.clear();
    before_ = ownMillis();
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
    // The rest is waiting: for workers, or where the machine is virtual for its neighbours.
    std::sort(own_.begin(), own_.end());
    std::printf("   of its own: median %6.2f ms   worst %6.2f ms   over 16 ms: %lld\n",
        own_[own_.size() / 2], own_.back(),
        static_cast<long long>(own_.end() - std::upper_bound(own_.begin(), own_.end(), 16.0)));
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
  std::vector<double> gaps_, own_;
  double before_ = 0;
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

void printTimes(const char* what, std::vector<double> times, double target) {
  std::sort(times.begin(), times.end());
  std::printf("%-36s median %6.2f ms   99 %% %6.2f ms   worst %6.2f ms   target %.0f ms\n", what,
      times[times.size() / 2], times[times.size() * 99 / 100], times.back(), target);
}

/// One number dragged: the time until the coarse and the sharp picture of the whole view are there.
void dragNumber(
    MainWindow& window, const std::function<void()>& settle, const std::function<void()>& turn) {
  constexpr int kDrags = 20;
  std::vector<double> coarse, sharp;
  for (int i = 0; i < kDrags; ++i) {
    acre::Recipe next = window.document().recipe();
    std::get<acre::NoiseSource>(next.heights.layers[0].source).width = 1900 - 10 * (i + 1);
    QElapsedTimer clock;
    clock.start();
    window.document().change(QStringLiteral("Width"), next, QStringLiteral("width"));
    while (!window.document().current() || !window.map().tiles().current()) turn();
    coarse.push_back(millis(clock));
    settle();
    sharp.push_back(millis(clock));
  }
  printTimes("drag: coarse picture", coarse, 50);
  printTimes("drag: sharp picture", sharp, 300);
}

/// What one picture takes from the move of the hand to the last of its pixels, with everything on
/// that lies over the ground: sixty a second leave 16.7 ms.
void picturesOf(MainWindow& window, const std::function<void()>& settle) {
  MapView& map = window.map();
  for (const auto& [what, cellsPerPixel] :
      {std::pair("at 16 pixels a cell", 1.0 / 16), std::pair("at 6 pixels a cell", 1.0 / 6),
          std::pair("at a cell a pixel", 1.0), std::pair("at 8 cells a pixel", 8.0)}) {
    map.lookAt(Place{}, Place{}, cellsPerPixel);
    settle();
    const QPoint middle = map.pictureRect().center();
    std::vector<double> panned, zoomed;
    QElapsedTimer clock;
    QTest::mousePress(&map, Qt::LeftButton, {}, middle);
    for (int k = 1; k <= 90; ++k) {
      clock.start();
      QTest::mouseMove(&map, middle + QPoint(3 * (k < 45 ? k : 90 - k), k % 7));
      map.repaint();
      panned.push_back(millis(clock));
      QTest::qWait(10);
    }
    QTest::mouseRelease(&map, Qt::LeftButton, {}, middle);
    for (int k = 0; k < 40; ++k) {
      clock.start();
      map.zoomBy(k < 20 ? 1.03 : 1 / 1.03, middle);
      map.repaint();
      zoomed.push_back(millis(clock));
      QTest::qWait(10);
    }
    printTimes((std::string("a picture panned ") + what).c_str(), panned, 16.7);
    printTimes((std::string("a picture zoomed ") + what).c_str(), zoomed, 16.7);
  }
  map.lookAt(Place{}, Place{}, 1);
}

/// A sheet of 4,096 pixels a side: what its file takes, apart from making the world in it.
void printSheet(MainWindow& window) {
  const QTemporaryDir dir;
  ExportOptions options;
  options.map.grid = {-2048, -2048, 1, 4096, 4096};
  options.map.format = acre::MapFormat::Png8;
  options.map.threads = 2;
  options.parts = {};
  const std::shared_ptr<const acre::World> world = window.document().world();
  const auto sheet = drawSheet(*world, options);
  if (!sheet) return;
  std::vector<double> times;
  for (int turn = 0; turn < 5; ++turn) {
    QElapsedTimer clock;
    clock.start();
    auto png = acre::PngWriter::create(dir.filePath(QStringLiteral("sheet.png")).toStdString(),
        static_cast<uint32_t>(sheet->width()), static_cast<uint32_t>(sheet->height()),
        acre::PngPixels::Rgb8, {});
    for (int j = 0; j < sheet->height(); ++j)
      (void)png->rowRgb(reinterpret_cast<const uint32_t*>(sheet->constScanLine(j)));
    (void)png->finish();
    times.push_back(millis(clock));
  }
  printTimes("a sheet of 4,096 x 4,096 written", times, 1600);
}

/// What makes ready is not timed; then the hand moves.
using Gesture = std::function<void(
    const char*, const std::function<void()>& ready, const std::function<void()>& act)>;

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
  Histogram* histogram = nullptr;
  gesture(
      "stakes: a held key",
      [&] {
        map.setFocus();
        QTest::keyClick(&map, Qt::Key_5);
        histogram = window.findChild<Histogram*>(QStringLiteral("strata.histogram"));
        while (!window.statistics().current()) QTest::qWait(5);
        histogram->setFocus();
      },
      [&] {
        for (int k = 0; k < 60; ++k) {
          QTest::keyPress(histogram, k < 30 ? Qt::Key_Right : Qt::Key_Left);
          QTest::qWait(25);
        }
        window.document().endGesture();
      });
  gesture(
      "chart: an edge dragged",
      [&] {
        map.setFocus();
        QTest::keyClick(&map, Qt::Key_4);
        while (!window.statistics().chart()) QTest::qWait(5);
      },
      [&] {
        ChartView& chart = window.biomes().chart();
        const QPoint at = chart.rect().center();
        QTest::mousePress(&chart, Qt::LeftButton, {}, at);
        over(&chart, at, {2, 1}, 40);
        QTest::mouseRelease(&chart, Qt::LeftButton, {}, at + QPoint(80, 40));
        window.document().undoStack().undo();
      });
  const auto open = [&](const char* demo) {
    return [&window, demo] { window.openWorld(QLatin1String(demo)); };
  };
  gesture("caves: the pointer over them", open("swallet-edge"), [&] {
    over(&map, middle() - QPoint(200, 80), {5, 2}, 80);
  });
  gesture("caves: plumb lines hung", open("swallet-edge"), [&] {
    for (int k = 0; k < 20; ++k) {
      QTest::mouseClick(&map, Qt::LeftButton, {}, middle() + QPoint(12 * k - 120, 7 * k - 70));
      QTest::qWait(60);
    }
    QTest::keyClick(&map, Qt::Key_Escape);
  });
  gesture(
      "census: counted while panning",
      [&] {
        window.openWorld(QStringLiteral("patchwork-parish"));
        window.drawers().open(QStringLiteral("census"));
      },
      [&] {
        for (int k = 0; k < 60; ++k) {
          map.goTo({k * 40, k * 13});
          QTest::qWait(20);
        }
        window.drawers().open({});
      });
  gesture(
      "brush: long strokes",
      [&] {
        window.openWorld(QStringLiteral("patchwork-parish"));
        window.drawers().open(QStringLiteral("hand"));
        window.findChild<NumberField*>(QStringLiteral("hand.brush"))->setValue(32);
      },
      [&] {
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
  std::setvbuf(stdout, nullptr, _IOLBF, 0);
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
  // What is to be deleted later is so here too, though no loop runs.
  const auto turn = [] {
    QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents);
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  };
  const auto settle = [&] {
    while (!window.document().current() || !map.settled()) turn();
  };
  settle();
  std::printf("calibration: %.1f ms for a million textbook samples\n", calibration());

  // Those whose names begin with the argument, or all.
  const std::string only = argc > 1 ? argv[1] : "";
  Gaps gaps;
  const auto gesture = [&](const char* what, const std::function<void()>& ready,
                           const std::function<void()>& act) {
    if (std::string(what).compare(0, only.size(), only) != 0) return;
    ready();
    settle();
    QTest::qWait(1500);  // What a change brings with it elsewhere.
    application.forget();
    gaps.start();
    act();
    gaps.print(what);
    application.print();
  };
  gesture(
      "drag: event loop", [] {}, [&] { dragNumber(window, settle, turn); });
  gesture(
      "drive: event loop", [&] { map.setFocus(); },
      [&] {
        QTest::keyPress(&map, Qt::Key_Right);
        QTest::qWait(3000);
        QTest::keyRelease(&map, Qt::Key_Right);
      });
  gesture(
      "pictures", [] {}, [&] { picturesOf(window, settle); });
  gesture(
      "sheet", [] {}, [&] { printSheet(window); });
  gesturesOf(window, gesture);
  return 0;
}
