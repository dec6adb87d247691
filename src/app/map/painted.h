/// A small map, painted at once: what thumbnails and the pictures of tooltips show.
#pragma once

#include <QImage>
#include <stop_token>

#include "output/picture.h"
#include "view/scene.h"

namespace app {

/// One pixel a sample of the grid. Null when the world has no picture of that kind, or at a stop.
QImage paintedMap(const acre::World& world, const acre::Picture& picture,
    const acre::SampleGrid& grid, const std::stop_token& stop = {});

/// What was drawn of a scene.
QImage imageOf(const acre::ViewPicture& picture);

}  // namespace app
