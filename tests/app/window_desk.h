/// A window with settings and an engine of its own, and short ways to its parts.
#pragma once

#include <QLineEdit>
#include <QTemporaryDir>
#include <QtTest>

#include "app/answers.h"
#include "app/look/look.h"
#include "app/patience.h"
#include "app/window/main_window.h"
#include "dry.h"

/// Base of tests of the whole window.
class WindowDesk {
 protected:
  QTemporaryDir dir_;
  std::unique_ptr<acre::Engine> engine_;
  std::unique_ptr<Settings> settings_;
  Answers answers_;
  std::unique_ptr<MainWindow> window_;
  /// The least it may have: half of a usual window's map to wait for.
  QSize size_{1024, 640};

  void makeEngine() {
    look::apply(*qApp, false);
    acre::EngineOptions options;
    options.threads = 2;
    engine_ = std::move(acre::Engine::create(options)).value();
  }
  /// A new window with a world, shown, its map settled.
  void openWindow(const char* demo) {
    newWindow();
    QVERIFY(window_->openWorld(QLatin1String(demo)));
    showWindow();
  }
  /// The same without rivers and lakes.
  void openDry(const char* demo) {
    newWindow();
    QVERIFY(window_->document().open(dryDemo(demo), {}, QLatin1String(demo)));
    showWindow();
  }
  void newWindow() {
    settings_ = std::make_unique<Settings>(
        dir_.filePath(QStringLiteral("settings-%1.ini").arg(QTest::currentTestFunction())));
    // Less than a user begins with: fewer chunks to wait for.
    settings_->setViewDistance(64);
    answers_ = {};
    window_ = std::make_unique<MainWindow>(*engine_, *settings_, answers_);
    window_->resize(size_);
  }
  void showWindow() {
    window_->show();
    QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    window_->activateWindow();
    QTRY_VERIFY(window_->map().settled());
  }

  template <class T>
  T* child(const char* name) {
    T* found = window_->findChild<T*>(QLatin1String(name));
    if (!found) qFatal("there is no %s", name);
    return found;
  }
  MapView& map() { return window_->map(); }
  WalkView& walk() { return window_->panes().walk().view(); }
  SectionView& section() { return window_->panes().section(); }
  const acre::World& world() { return *window_->document().world(); }
  void click(const char* name) { child<QAbstractButton>(name)->click(); }
  /// Types into a field and takes it over.
  void type(const char* name, const QString& text) {
    auto* field = child<QLineEdit>(name);
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
  }
  void toWalk() {
    click("title.walk");
    QTRY_VERIFY(walk().settled());
    walk().setFocus();
  }
};
