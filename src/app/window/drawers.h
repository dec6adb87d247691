/// The rail at the left of the map and the drawers that it opens over it.
#pragma once

#include <QAbstractButton>
#include <QWidget>
#include <vector>

#include "app/window/drawer_table.h"
#include "app/window/reel.h"

namespace app {

/// A word written upwards; checked while its drawer is open.
class RailButton : public QAbstractButton {
  Q_OBJECT

 public:
  RailButton(const QString& text, const QString& name, QWidget* parent);
  QSize sizeHint() const override;
  QSize minimumSizeHint() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }
};

/// One drawer at a time, over the left of a widget.
class Drawers : public QWidget {
  Q_OBJECT

 public:
  /// over: what the drawers lie over; the rail itself goes into a layout beside it.
  explicit Drawers(QWidget* over, QWidget* parent = nullptr);

  /// Adds a drawer; closed at first.
  void add(const DrawerDef& def, QWidget* content);
  /// Opens the drawer with that name; empty: closes all.
  void open(const QString& name);
  /// Whether what is open stands beside the views or lies over them.
  void setBeside(bool beside);
  /// Opens it, or closes it when it is open. Gives it the focus if it takes it.
  void toggle(const QString& name);
  QString shown() const { return open_; }
  /// The content of a class.
  template <class T>
  T& content() const {
    for (const Drawer& drawer : drawers_) {
      if (auto* whole = qobject_cast<T*>(drawer.content)) return *whole;
      if (auto* part = drawer.content->findChild<T*>()) return *part;
    }
    qFatal("no drawer holds a %s", T::staticMetaObject.className());
  }

 protected:
  bool eventFilter(QObject*, QEvent*) override;
  void paintEvent(QPaintEvent*) override;

 private:
  struct Drawer {
    QString name;
    QWidget* frame;
    QWidget* content;
    RailButton* button;
    int width;
  };
  void place();

  QWidget* over_;
  Reel* reel_;
  std::vector<Drawer> drawers_;
  QString open_;
  bool beside_ = false;
};

}  // namespace app
