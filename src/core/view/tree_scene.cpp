#include "view/tree_scene.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <utility>

#include "recipe/tree_recipe.h"

namespace acre {
namespace {

std::array<std::array<double, 3>, 2> boxOf(const TreeBlocks& tree) {
  const auto &first = tree.first(), &size = tree.size();
  return {
      {{static_cast<double>(first.x), static_cast<double>(first.y), static_cast<double>(first.z)},
          {static_cast<double>(first.x + size.x), static_cast<double>(first.y + size.y),
              static_cast<double>(first.z + size.z)}}};
}

Eye eyeAbout(const std::array<double, 3>& low, const std::array<double, 3>& high, double yaw,
    double pitch, int32_t width, int32_t height) {
  Eye eye;
  eye.yaw = yaw;
  eye.pitch = pitch;
  eye.field = 30;
  std::array<double, 3> middle;
  for (size_t n = 0; n < 3; ++n) middle[n] = (low[n] + high[n]) / 2;
  // As near as the farthest corner lets it, with a rim about it.
  const Directions to = directionsOf(eye);
  const double wide = std::tan(eye.field / 2 * kDegree), tall = wide * height / width;
  const auto along = [](const Vector3& way, const std::array<double, 3>& d) {
    return way.x * d[0] + way.y * d[1] + way.z * d[2];
  };
  constexpr double kRim = 1.1;
  double away = 0;
  for (size_t corner = 0; corner < 8; ++corner) {
    std::array<double, 3> d;
    for (size_t n = 0; n < 3; ++n) d[n] = (corner >> n & 1 ? high[n] : low[n]) - middle[n];
    const double aside =
        std::max(std::abs(along(to.right, d)) / wide, std::abs(along(to.up, d)) / tall);
    away = std::max(away, kRim * aside - along(to.forward, d));
  }
  const Vector3 forward = to.forward;
  eye.x = eye.z = 0;
  eye.move(middle[0] - forward.x * away, 0, middle[2] - forward.z * away);
  eye.y = middle[1] - forward.y * away;
  return eye;
}

}  // namespace

void addToScene(const TreeBlocks& blocks, int64_t x, int64_t y, int64_t z, const TreeShown& shown,
    Scene& scene) {
  std::vector<BlockClass> solid(
      size_t{std::max(shown.woodAs, shown.leafAs)} + 1, BlockClass::Solid);
  solid[0] = BlockClass::Open;
  const BlockClasses classes(std::move(solid));
  constexpr int32_t kSide = BlockMesh::kSide;
  const auto &first = blocks.first(), &size = blocks.size();
  const auto made = [&](int32_t i, int32_t j, int32_t k) -> MaterialIndex {
    if (k >= shown.slice) return kOpen;
    const auto of = blocks.at(i, j, k);
    if (of == TreeBlocks::Of::Wood && shown.wood) return shown.woodAs;
    return of == TreeBlocks::Of::Leaf && shown.leaves ? shown.leafAs : kOpen;
  };
  std::vector<MaterialIndex> box;
  for (int32_t j0 = 0; j0 < size.y; j0 += kSide)
    for (int32_t k0 = 0; k0 < size.z; k0 += kSide)
      for (int32_t i0 = 0; i0 < size.x; i0 += kSide) {
        auto mesh = std::make_shared<BlockMesh>();
        mesh->width = std::min(kSide, size.x - i0);
        mesh->tall = std::min(kSide, size.y - j0);
        mesh->depth = std::min(kSide, size.z - k0);
        const int32_t i1 = first.x + i0, j1 = first.y + j0, k1 = first.z + k0;
        mesh->x = x + i1;
        mesh->y = y + j1;
        mesh->z = z + k1;
        box.clear();
        for (int32_t j = -1; j <= mesh->tall; ++j)
          for (int32_t k = -1; k <= mesh->depth; ++k)
            for (int32_t i = -1; i <= mesh->width; ++i) box.push_back(made(i1 + i, j1 + j, k1 + k));
        buildFaces(classes, box, {}, *mesh);
        if (!mesh->empty()) scene.push_back({std::move(mesh), 0});
      }
}

ViewStyle styleFor(const TreeStyle& style, const std::vector<Material>& materials) {
  ViewStyle out;
  const auto inkOf = [&](const std::string& id, uint32_t usual) {
    for (const Material& m : materials)
      if (m.id == id)
        return 0xFF000000u | uint32_t{m.colour.red} << 16 | uint32_t{m.colour.green} << 8 |
               m.colour.blue;
    return usual;
  };
  out.inks = {0xFFE9E3D3, inkOf(style.wood, 0xFF6B5A48), inkOf(style.leaf, 0xFF6E8B5A)};
  out.distance = 4096;  // No fog.
  out.contours = 0;
  return out;
}

Eye eyeAbout(const TreeBlocks& tree, double yaw, double pitch, int32_t width, int32_t height) {
  const auto box = boxOf(tree);
  return eyeAbout(box[0], box[1], yaw, pitch, width, height);
}

ViewPicture treeSheet(const std::vector<TreeBlocks>& trees, const ViewStyle& style, int across,
    int32_t width, int32_t height) {
  ViewPicture sheet;
  sheet.width = width;
  sheet.height = height;
  sheet.argb.assign(static_cast<size_t>(width) * static_cast<size_t>(height), style.fog);
  if (trees.empty()) return sheet;
  const int count = static_cast<int>(trees.size());
  const int down = (count + across - 1) / across;
  auto all = boxOf(trees.front());
  for (const TreeBlocks& tree : trees) {
    const auto box = boxOf(tree);
    for (size_t a = 0; a < 3; ++a) {
      all[0][a] = std::min(all[0][a], box[0][a]);
      all[1][a] = std::max(all[1][a], box[1][a]);
    }
  }
  ViewPicture one;
  one.width = std::max(1, width / across);
  one.height = std::max(1, height / down);
  const Eye eye = eyeAbout(all[0], all[1], 0, -8, one.width, one.height);
  for (int n = 0; n < count; ++n) {
    Scene scene;
    addToScene(trees[static_cast<size_t>(n)], 0, 0, 0, {}, scene);
    drawScene(scene, eye, style, one);
    sheet.drawn += one.drawn;
    const int32_t x0 = n % across * one.width, y0 = n / across * one.height;
    for (int32_t j = 0; j < one.height && y0 + j < height; ++j)
      std::copy_n(one.argb.begin() + static_cast<ptrdiff_t>(j) * one.width, one.width,
          sheet.argb.begin() + static_cast<ptrdiff_t>(y0 + j) * width + x0);
  }
  return sheet;
}

}  // namespace acre
