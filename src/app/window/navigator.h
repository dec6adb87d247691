/// The ways from one part of the window to another.
#pragma once

#include <QObject>
#include <optional>

#include "app/document/document.h"
#include "app/map/map_view.h"
#include "app/map/plumb_lines.h"
#include "app/window/panes.h"
#include "app/window/showing.h"

namespace app {

/// Editors, drawers and cards say where somebody wants to go, what is to be copied, what was
/// refused; nobody but this class knows who takes them there.
class Navigator : public QObject {
  Q_OBJECT

 public:
  Navigator(Document& document, MapView& map, Panes& panes, PlumbLines& plumbs);

  void goTo(acre::Cell cell);
  /// Hangs the plumb line; y: from a block of the column.
  void hang(acre::Cell cell, std::optional<int64_t> y = {});
  /// Both.
  void visit(acre::Cell cell, std::optional<int64_t> y = {});
  void copy(const QString& text, const QString& what);
  /// Copies the call of the command: "acre VERB SOURCE REST".
  void copyCommand(const QString& verb, const QString& rest = {});

  /// What remembers and shows again where one was.
  void setShowing(Showing* showing) { showing_ = showing; }
  /// Remembers where one is, until one comes back.
  void leave();
  void goBack();

 signals:
  void refused(const QString& reason);
  void told(const QString& what);
  void controlRequested(const QString& pointer);  ///< Of a place in the recipe.
  void drawerRequested(const QString& name);      ///< Empty: none.

 private:
  Document& document_;
  MapView& map_;
  Panes& panes_;
  PlumbLines& plumbs_;
  Showing* showing_ = nullptr;
  struct CameFrom {
    ViewState view;
    Panes::Large large;
  };
  std::optional<CameFrom> cameFrom_;
};

}  // namespace app
