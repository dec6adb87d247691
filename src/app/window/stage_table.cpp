#include "app/window/stage_table.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/biome/biomes_editor.h"
#include "app/biome/climate_editor.h"
#include "app/edit/caves_editor.h"
#include "app/edit/frame_editor.h"
#include "app/edit/heights_editor.h"
#include "app/edit/strata_editor.h"
#include "app/level/level_editor.h"
#include "app/look/look.h"
#include "app/objects/objects_editor.h"
#include "app/tiles/tiles_editor.h"
#include "app/water/water_editor.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"
#include "recipe/object_recipe.h"
#include "recipe/tile_recipe.h"

namespace app {
namespace {

using acre::PictureKind;

template <class E>
Editor* editor(Document& document, Statistics& statistics) {
  if constexpr (std::is_constructible_v<E, Document&, Statistics&>)
    return new E(document, statistics);
  else
    return new E(document);
}

QString counted(size_t count, const QString& one, const QString& many) {
  return count == 1 ? one : many.arg(count);
}
const acre::Recipe& recipeOf(const acre::World& world) {
  return planOf(world).recipe();
}

/// A neat corner with chunk lines.
QImage frameSign(QSize size) {
  QImage image(size, QImage::Format_RGB32);
  image.fill(look::tokens().sheet);
  QPainter p(&image);
  p.setPen(QPen(look::tokens().rule, 1));
  for (int x = 10; x < size.width(); x += 8) p.drawLine(x, 6, x, size.height());
  for (int y = 6; y < size.height(); y += 8) p.drawLine(10, y, size.width(), y);
  p.setPen(QPen(look::tokens().ink, 1.5));
  p.drawLine(10, 6, size.width(), 6);
  p.drawLine(10, 6, 10, size.height());
  return image;
}

QString frameNote(const acre::World& world) {
  const QString sea = look::number(std::round(planOf(world).seaLevel() * 100) / 100);
  const acre::Frame& frame = recipeOf(world).frame;
  return (frame.x || frame.z ? QObject::tr("bounded, sea %1") : QObject::tr("endless, sea %1"))
      .arg(sea);
}

acre::Picture heights(const acre::World& world) {
  if (planOf(world).level()) return {PictureKind::Field, acre::kHeightsId, {}, false};
  return {PictureKind::Height, {}, {}, false};
}

acre::Picture temperature(const acre::World&) {
  return {PictureKind::Field, acre::kTemperatureId, {}, false};
}

/// Borders are left out: at this size they would cover what they part.
acre::Picture biomes(const acre::World&) {
  return {PictureKind::Biome, {}, {}, false};
}

acre::Picture surface(const acre::World&) {
  return {};
}

/// Somewhat below the sea, where there is ground everywhere.
acre::Picture caves(const acre::World& world) {
  if (!planOf(world).blocks() || !planOf(world).caves()) return {};
  const acre::AxisBounds range = planOf(world).vertical();
  acre::Picture slice{PictureKind::Slice, {}, {}, false};
  slice.level = std::clamp(
      static_cast<int64_t>(planOf(world).seaLevel()) - 16, range.min, range.min + range.extent - 1);
  return slice;
}

QString heightsNote(const acre::World& world) {
  return counted(
      recipeOf(world).heights.layers.size(), QObject::tr("1 layer"), QObject::tr("%1 layers"));
}

QString climateNote(const acre::World& world) {
  const acre::Climate& climate = recipeOf(world).climate;
  const std::string &warm = climate.temperature.unit, &wet = climate.moisture.unit;
  return warm.empty() ? QObject::tr("two fields")
                      : QStringLiteral("%1, %2").arg(
                            QString::fromStdString(warm), QString::fromStdString(wet));
}

QString biomesNote(const acre::World& world) {
  return counted(
      recipeOf(world).biomes.list.size(), QObject::tr("1 biome"), QObject::tr("%1 biomes"));
}

QString levelNote(const acre::World& world) {
  return QObject::tr("floor %1").arg(recipeOf(world).level->floor);
}

QString waterNote(const acre::World& world) {
  return QObject::tr("springs of %1").arg(look::number(recipeOf(world).rivers->spring));
}

QString strataNote(const acre::World& world) {
  return counted(recipeOf(world).bands.size(), QObject::tr("1 band"), QObject::tr("%1 bands"));
}

QString cavesNote(const acre::World& world) {
  const acre::Caves& caves = *recipeOf(world).caves;
  if (caves.empty()) return QObject::tr("none");
  return counted(caves.tunnels.size() + caves.voids.size() + caves.automata.size(),
      QObject::tr("1 part"), QObject::tr("%1 parts"));
}

QString objectsNote(const acre::World& world) {
  const auto& kinds = recipeOf(world).objects->kinds;
  if (kinds.empty()) return QObject::tr("none");
  return counted(kinds.size(), QObject::tr("1 kind"), QObject::tr("%1 kinds"));
}

QString tilesNote(const acre::World& world) {
  const auto& groups = recipeOf(world).tiles->groups;
  if (groups.empty()) return QObject::tr("none");
  return counted(groups.size(), QObject::tr("1 group"), QObject::tr("%1 groups"));
}

constexpr StagePage kPages[] = {
    {StageId::Frame, 1, editor<FrameEditor>, nullptr, frameSign, false, frameNote},
    {StageId::Heights, 2, editor<HeightsEditor>, heights, nullptr, false, heightsNote},
    {StageId::Climate, 3, editor<ClimateEditor>, temperature, nullptr, false, climateNote},
    {StageId::Biomes, 4, editor<BiomesEditor>, biomes, nullptr, false, biomesNote},
    {StageId::Level, 7, editor<LevelEditor>, surface, nullptr, false, levelNote},
    {StageId::Water, 8, editor<WaterEditor>, surface, nullptr, true, waterNote},
    {StageId::Strata, 5, editor<StrataEditor>, surface, nullptr, false, strataNote},
    {StageId::Caves, 6, editor<CavesEditor>, caves, nullptr, true, cavesNote},
    {StageId::Objects, 9, editor<ObjectsEditor>, surface, nullptr, true, objectsNote},
    {StageId::Tiles, 0, editor<TilesEditor>, surface, nullptr, true, tilesNote},
};

constexpr bool eachAtItsPlace() {
  for (size_t i = 0; i < std::size(kPages); ++i)
    if (kPages[i].id != static_cast<StageId>(i)) return false;
  return std::size(kPages) == acre::kStageCount;
}
static_assert(eachAtItsPlace(), "a stage without a page, or out of order");

constexpr bool eachHasItsKey() {
  uint32_t taken = 0;
  for (const StagePage& page : kPages) {
    if (page.digit < 0 || page.digit > 9 || (taken >> page.digit & 1) != 0) return false;
    taken |= 1u << page.digit;
  }
  return true;
}
static_assert(eachHasItsKey(), "two stages with one key");

}  // namespace

std::span<const StagePage, acre::kStageCount> allPages() {
  return kPages;
}

}  // namespace app
