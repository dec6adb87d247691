/// What a drawer is made of: the parts of the window that it may look at and speak to.
#pragma once

#include "app/document/document.h"
#include "app/document/statistics.h"
#include "app/map/lit_ground.h"
#include "app/map/map_view.h"
#include "app/window/dialogs.h"
#include "app/window/navigator.h"
#include "app/window/panes.h"

namespace app {

struct Shell {
  Document& document;
  Statistics& statistics;
  MapView& map;
  Panes& panes;
  Dialogs& dialogs;
  LitGround& lit;
  Navigator& navigator;
};

}  // namespace app
