/// One editor on a desk of its own, for tests that go by key and pointer.
#pragma once

#include <QtTest>

#include "app/document/document.h"
#include "app/document/statistics.h"
#include "app/edit/choice.h"
#include "app/edit/tick.h"
#include "app/look/look.h"
#include "app/patience.h"
#include "dry.h"

using namespace app;

/// Shows a window and gives it the keyboard.
inline void present(QWidget& window) {
  window.show();
  if (!QTest::qWaitForWindowExposed(&window)) qFatal("no window");
  window.activateWindow();
  window.setFocus();
}

inline std::unique_ptr<acre::Engine> makeEngine() {
  acre::EngineOptions options;
  options.threads = 2;
  return std::move(acre::Engine::create(options)).value();
}

/// A document with its statistics and one editor in a window of its own.
template <class E>
struct Desk {
  Document document;
  Statistics statistics;
  E editor;

  explicit Desk(acre::Engine& engine, const char* demo = "saltfen-reach")
      : document(engine), statistics(document), editor(document, statistics) {
    if (!document.open(dryDemo(demo), {}, QLatin1String(demo))) qFatal("a demo does not open");
    const auto follow = [this] { editor.refresh(); };
    QObject::connect(&document, &Document::recipeChanged, &editor, follow);
    QObject::connect(&document, &Document::worldChanged, &editor, follow);
    editor.resize(look::kEditorWidth, 1400);
    present(editor);
    editor.refresh();
  }
  template <class T>
  T* child(const QString& name) {
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    T* found = editor.template findChild<T*>(name);
    if (!found) qFatal("there is no %s", qPrintable(name));
    return found;
  }
  bool has(const QString& name) {
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    return editor.template findChild<QWidget*>(name) != nullptr;
  }
  void type(const QString& name, const QString& text) {
    auto* field = child<QLineEdit>(name);
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
  }
  void tick(const QString& name) { child<Tick>(name)->click(); }
  void pick(const QString& name, int index) {
    auto* choice = child<Choice>(name);
    choice->setCurrentIndex(index);
    emit choice->activated(index);
  }
  const acre::Layer& layer(const char* id) const {
    for (const acre::Layer& l : document.recipe().heights.layers)
      if (l.id == id) return l;
    qFatal("there is no layer %s", id);
  }
};
