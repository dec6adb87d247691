#include "app/map/painted.h"

namespace app {

QImage paintedMap(const acre::World& world, const acre::Picture& picture,
    const acre::SampleGrid& grid, const std::stop_token& stop) {
  if (!acre::checkPicture(world, picture)) return {};
  const auto samples = acre::sampleWithRim(world, picture, grid, stop);
  if (!samples) return {};
  const acre::Palette palette(world, picture);
  QImage image(grid.width, grid.length, QImage::Format_RGB32);
  for (int32_t j = 0; j < grid.length; ++j)
    palette.paintRow(
        *samples, j, acre::Unassigned::Hatched, reinterpret_cast<uint32_t*>(image.scanLine(j)));
  return image;
}

QImage imageOf(const acre::ViewPicture& picture) {
  return QImage(reinterpret_cast<const uchar*>(picture.argb.data()), picture.width, picture.height,
      QImage::Format_RGB32)
      .copy();
}

}  // namespace app
