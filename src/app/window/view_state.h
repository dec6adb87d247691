/// What one looks at, as a value: to come back to, or to lay beside another.
#pragma once

#include <memory>

#include "app/map/geometry.h"
#include "output/picture.h"
#include "recipe/stage_id.h"

namespace acre {
class World;
}

namespace app {

struct ViewState {
  std::shared_ptr<const acre::World> world;  ///< As it is on the map: up to that stage.
  acre::Picture picture;
  acre::StageId upTo{};
  bool borders = false;
  Place viewpoint;
  Place centre;
  double cellsPerPixel = 1;

  bool operator==(const ViewState&) const = default;
};

}  // namespace app
