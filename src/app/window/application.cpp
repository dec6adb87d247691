#include "app/window/application.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QSessionManager>
#include <QTimer>
#include <cstdio>
#include <cstdlib>
#include <thread>

#include "app/look/look.h"
#include "app/window/end_signals.h"
#include "app/window/main_window.h"
#include "base/process.h"
#include "base/version.h"

namespace app {

int runApplication(int argc, char** argv) {
  if (const acre::Status ready = acre::prepareProcess(); !ready) {
    std::fprintf(stderr, "kindred-acre: %s\n", ready.error().text().c_str());
    return 2;
  }
  const char* platform = std::getenv("QT_QPA_PLATFORM");
  if (!std::getenv("DISPLAY") && !std::getenv("WAYLAND_DISPLAY") && !platform) {
    std::fputs("kindred-acre needs a display. Without one, use the command acre.\n", stderr);
    return 2;
  }
  QApplication application(argc, argv);
  QApplication::setApplicationName(QStringLiteral("Kindred Acre"));
  QApplication::setApplicationVersion(QLatin1String(acre::kVersionText));
  QCommandLineParser parser;
  parser.setApplicationDescription(
      QStringLiteral("A workbench for worlds that are made from a seed."));
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument(
      QStringLiteral("world"), QStringLiteral("A recipe file or the name of a demo."));
  parser.process(application);

  acre::EngineOptions options;
  options.threads = std::max(2u, std::thread::hardware_concurrency());
  auto engine = acre::Engine::create(options);
  if (!engine) {
    std::fprintf(stderr, "%s\n", engine.error().text().c_str());
    return 2;
  }
  Settings settings;
  look::apply(application, settings.night());
  MainWindow window(**engine, settings, desktopDialogs());
  const QStringList worlds = parser.positionalArguments();
  window.openWorld(worlds.isEmpty() ? QStringLiteral("saltfen-reach") : worlds.front());
  window.show();
  window.recoverLost(!worlds.isEmpty());
  // Ended from outside, by a signal or with the session: nothing is asked, nothing is lost.
  const EndSignals ends([&window] {
    window.keepUnsaved();
    QApplication::exit();
  });
  QObject::connect(
      &application, &QGuiApplication::commitDataRequest, &window,
      [&window](QSessionManager& manager) {
        window.keepUnsaved();
        manager.setRestartHint(QSessionManager::RestartNever);
      },
      Qt::DirectConnection);
  return QApplication::exec();
}

}  // namespace app
