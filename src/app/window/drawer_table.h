/// The drawers of the window, once: what they are called, how wide they are, which key opens them,
/// and how they are made. Whoever lists drawers goes by this table.
#pragma once

#include <Qt>
#include <span>

#include "app/window/shell.h"

namespace app {

struct DrawerDef {
  const char* name;   ///< Of the object, and for opening it.
  const char* title;  ///< On the rail.
  const char* what;   ///< In a sentence.
  int width;          ///< In pixels.
  int key;            ///< Of the map, a Qt::Key; 0: none.
  bool scrolls;       ///< As a whole; others scroll their lists.
  QWidget* (*make)(Shell& shell);
};

/// In the order of the rail.
std::span<const DrawerDef> allDrawers();

}  // namespace app
