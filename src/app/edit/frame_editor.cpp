#include "app/edit/frame_editor.h"

#include <QGridLayout>
#include <QSignalBlocker>

#include "app/edit/lists.h"
#include "app/look/look.h"
#include "base/coords.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"

namespace app {
namespace {

/// Whole numbers that a field shows exactly.
constexpr double kExact = 9007199254740992.0;

}  // namespace

FrameEditor::FrameEditor(Document& document, QWidget* parent) : Editor(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 12, 16, 12);
  column->setSpacing(look::kSpace);

  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(12);
  grid->setVerticalSpacing(look::kSpace);
  grid->setColumnStretch(2, 1);
  grid->setColumnMinimumWidth(1, 190);
  name_ = new QLineEdit;
  name_->setObjectName(QStringLiteral("frame.name"));
  name_->setAccessibleName(tr("Name of the world"));
  name_->setMaxLength(100);
  connect(name_, &QLineEdit::editingFinished, this, [this] {
    const std::string text = name_->text().toStdString();
    if (text != document_.recipe().name)
      apply(tr("Rename the world"), [&](acre::Recipe& r) { r.name = text; });
  });
  grid->addWidget(new QLabel(tr("Name")), 0, 0);
  grid->addWidget(name_, 0, 1, 1, 2);
  grid->addWidget(new QLabel(tr("Kind")), 1, 0);
  kind_ = new Choice;
  kind_->setObjectName(QStringLiteral("frame.kind"));
  kind_->setAccessibleName(tr("Kind of world"));
  kind_->addItems({tr("Overland: tiles seen from above"), tr("Voxel: blocks in cubes"),
      tr("Voxel: blocks in tall columns"), tr("Side: a cut seen from the side"),
      tr("Level: one floor of rock and open space")});
  kind_->setToolTip(
      tr("What a world is made of. Heights, climate, biomes and bands stay as they are;\n"
         "blocks add layers by depth, rock and ores in the Strata."));
  connect(kind_, &Choice::activated, this, &FrameEditor::chooseKind);
  grid->addWidget(kind_, 1, 1, 1, 2);

  NumberSpec chunk{acre::limits::chunkSize, 1, true, true, tr("cells")};
  grid->addWidget(new QLabel(tr("Chunk side")), 2, 0);
  grid->addWidget(
      bindNumber(chunk, QStringLiteral("frame.chunk"), tr("Chunk side"),
          {[](const acre::Recipe& r) { return std::optional<double>(r.frame.chunkSize); },
              [](acre::Recipe& r, double v) { r.frame.chunkSize = static_cast<int32_t>(v); }},
          tr("Cells along one side of a chunk. Changes no cell, only how they are cut.")),
      2, 1);
  NumberSpec sea{acre::limits::altitude, 0.5, false, false, {}};
  grid->addWidget(new QLabel(tr("Sea level")), 3, 0);
  grid->addWidget(
      bindNumber(sea, QStringLiteral("frame.sea"), tr("Sea level"),
          {[this](const acre::Recipe& r) {
             // A held share decides the level; the world knows how it came out.
             return std::optional(
                 r.frame.seaShare ? planOf(*document_.world()).seaLevel() : r.frame.seaLevel);
           },
              [](acre::Recipe& r, double v) {
                r.frame.seaLevel = v;
                r.frame.seaShare.reset();
              }},
          tr("Altitude of the sea. Bands that are measured from the sea move with it.")),
      3, 1);
  column->addLayout(grid);
  column->addSpacing(8);
  column->addWidget(heading(tr("Bounds")));
  column->addWidget(caption(tr("Bounds only crop: moving them changes no cell that stays.")));
  x_ = addAxis(column, QStringLiteral("x"), &acre::Frame::x);
  z_ = addAxis(column, QStringLiteral("z"), &acre::Frame::z);
  verticalRow_ = new QWidget;
  auto* vertical = new QHBoxLayout(verticalRow_);
  vertical->setContentsMargins(0, 0, 0, 0);
  vertical->setSpacing(look::kSpace);
  vertical->addWidget(new QLabel(tr("y, upwards")), 1);
  vertical->addWidget(caption(tr("from")));
  auto* lowest = bindNumber({acre::limits::verticalMin, 1, false, true, {}},
      QStringLiteral("frame.min.y"), tr("Lowest level of blocks"),
      {[](const acre::Recipe& r) { return std::optional(static_cast<double>(r.frame.y.min)); },
          [](acre::Recipe& r, double v) { r.frame.y.min = static_cast<int64_t>(v); }},
      tr("The lowest level of blocks that exists."));
  auto* levels = bindNumber(
      {{1, static_cast<double>(acre::limits::verticalExtent)}, 1, true, true, tr("blocks")},
      QStringLiteral("frame.extent.y"), tr("Levels of blocks"),
      {[](const acre::Recipe& r) { return std::optional(static_cast<double>(r.frame.y.extent)); },
          [](acre::Recipe& r, double v) { r.frame.y.extent = static_cast<int64_t>(v); }},
      tr("How many levels there are. Shares of ores are of the rock within them."));
  lowest->setFixedWidth(96);
  levels->setFixedWidth(116);
  vertical->addWidget(lowest);
  vertical->addWidget(levels);
  column->addWidget(verticalRow_);
  column->addSpacing(8);
  column->addWidget(heading(tr("Counts")));
  counts_ = new QLabel;
  counts_->setObjectName(QStringLiteral("frame.counts"));
  counts_->setWordWrap(true);
  column->addWidget(counts_);
  column->addStretch(1);
  refresh();
}

FrameEditor::AxisRow FrameEditor::addAxis(QVBoxLayout* column, const QString& axis,
    std::optional<acre::AxisBounds> acre::Frame::*member) {
  AxisRow row;
  auto* line = new QHBoxLayout;
  line->setSpacing(look::kSpace);
  row.bounded =
      new Tick(axis == QStringLiteral("x") ? tr("x, west to east") : tr("z, north to south"));
  row.bounded->setObjectName(QStringLiteral("frame.bounded.") + axis);
  row.bounded->setToolTip(
      tr("On: the world ends at these cells. Off: it is endless along this axis."));
  connect(row.bounded, &Tick::toggled, this, [this, member, axis](bool on) {
    apply(on ? tr("Bound %1").arg(axis) : tr("Unbound %1").arg(axis), [&](acre::Recipe& r) {
      if (on)
        r.frame.*member = acre::AxisBounds{-256, 512};
      else
        (r.frame.*member).reset();
    });
  });
  line->addWidget(row.bounded, 1);
  NumberSpec min{{-kExact, kExact}, 1, false, true, {}};
  row.min = bindNumber(min, QStringLiteral("frame.min.") + axis, tr("First cell of %1").arg(axis),
      {[member](const acre::Recipe& r) {
         return r.frame.*member ? std::optional(static_cast<double>((r.frame.*member)->min))
                                : std::nullopt;
       },
          [member](acre::Recipe& r, double v) {
            if (r.frame.*member) (r.frame.*member)->min = static_cast<int64_t>(v);
          }},
      tr("The first cell that exists."));
  NumberSpec extent{{1, kExact}, 1, true, true, tr("cells")};
  row.extent =
      bindNumber(extent, QStringLiteral("frame.extent.") + axis, tr("Extent of %1").arg(axis),
          {[member](const acre::Recipe& r) {
             return r.frame.*member ? std::optional(static_cast<double>((r.frame.*member)->extent))
                                    : std::nullopt;
           },
              [member](acre::Recipe& r, double v) {
                if (r.frame.*member) (r.frame.*member)->extent = static_cast<int64_t>(v);
              }},
          tr("How many cells there are. Any number; the last chunk may be partial."));
  row.min->setFixedWidth(96);
  row.extent->setFixedWidth(116);
  line->addWidget(caption(tr("from")));
  line->addWidget(row.min);
  line->addWidget(row.extent);
  column->addLayout(line);
  return row;
}

namespace {

/// What a level cannot be without: bounds, a material of open cells, and something that opens them.
void makeLevel(acre::Recipe& r) {
  using acre::MaterialState;
  for (auto* axis : {&r.frame.x, &r.frame.z}) {
    const bool fits = *axis && acre::limits::levelSide.holds(static_cast<double>((*axis)->extent));
    if (!fits) *axis = acre::AxisBounds{-64, 128};
  }
  r.caves->on = false;
  acre::Level& level = *r.level;
  if (level.open.empty()) {
    level.open = acre::freshId("floor", idsOf(r.materials));
    r.materials.push_back({level.open, "Floor", {0xF9, 0xF9, 0xF8}, MaterialState::Passable});
  }
  if (r.layers.empty()) {
    const std::string wall = acre::freshId("wall", idsOf(r.materials));
    r.materials.push_back({wall, "Wall", {0x84, 0x7B, 0x6F}, MaterialState::Solid});
    r.layers = {{"lining", wall, 1, {}, 0}};
  }
  if (!level.processes.empty()) return;
  level.processes = {{"caverns", "Caverns", true, acre::FilledAutomaton{}},
      {"ways", "Ways between", true, acre::LevelSpaces{}}};
}

}  // namespace

/// What a world of blocks or a level cannot be without is there from the start.
void FrameEditor::chooseKind(int index) {
  apply(tr("Kind of world"), [index](acre::Recipe& r) {
    using acre::MaterialState;
    constexpr acre::WorldKind kKinds[] = {acre::WorldKind::Overland, acre::WorldKind::Voxel,
        acre::WorldKind::Voxel, acre::WorldKind::Side, acre::WorldKind::Level};
    r.frame.kind = kKinds[index];
    if (r.frame.kind == acre::WorldKind::Level) return makeLevel(r);
    r.frame.shape = index == 2 ? acre::ChunkShape::Columns : acre::ChunkShape::Cubes;
    if (!r.frame.blocks()) return;
    r.frame.chunkSize =
        std::clamp(r.frame.chunkSize, static_cast<int32_t>(acre::limits::blockChunk.low),
            static_cast<int32_t>(acre::limits::blockChunk.high));
    const auto firstOf = [&](MaterialState state) -> std::string {
      for (const acre::Material& m : r.materials)
        if (m.state == state) return m.id;
      return {};
    };
    if (r.rock.beds.empty()) {
      const std::string id = acre::freshId("rock", idsOf(r.materials));
      r.materials.push_back({id, "Rock", {0x96, 0x9C, 0xA6}, MaterialState::Solid});
      r.rock.beds = {{"bed-1", id, 16}};
    }
    if (r.layers.empty()) r.layers = {{"top", acre::kSurfaceId, 2, {}, 0}};
    if (r.water.material.empty()) r.water.material = firstOf(MaterialState::Liquid);
  });
  refresh();
}

void FrameEditor::refresh() {
  const acre::Frame& frame = document_.recipe().frame;
  kind_->setCurrentIndex(frame.kind == acre::WorldKind::Overland  ? 0
                         : frame.kind == acre::WorldKind::Side    ? 3
                         : frame.kind == acre::WorldKind::Level   ? 4
                         : frame.shape == acre::ChunkShape::Cubes ? 1
                                                                  : 2);
  verticalRow_->setVisible(frame.blocks());
  if (!name_->hasFocus()) name_->setText(QString::fromStdString(document_.recipe().name));
  for (const auto& [row, axis] : {std::pair(&x_, &frame.x), std::pair(&z_, &frame.z)}) {
    const QSignalBlocker quiet(row->bounded);
    row->bounded->setChecked(axis->has_value());
    row->min->setEnabled(axis->has_value());
    row->extent->setEnabled(axis->has_value());
  }
  refreshNumbers();
  const int64_t side = frame.chunkSize;
  if (frame.x && frame.z) {
    const auto chunks = [side](const acre::AxisBounds& a) {
      return acre::floorDiv(a.min + a.extent - 1, side) - acre::floorDiv(a.min, side) + 1;
    };
    const auto product = [](int64_t a, int64_t b) {
      return a < (int64_t{1} << 31) && b < (int64_t{1} << 31)
                 ? look::wholeNumber(a * b)
                 : look::number(static_cast<double>(a) * static_cast<double>(b));
    };
    counts_->setText(tr("%1 cells in %2 chunks, those at the rim partial.")
                         .arg(product(frame.x->extent, frame.z->extent),
                             product(chunks(*frame.x), chunks(*frame.z))));
  } else {
    counts_->setText(tr("Endless; %1 cells a chunk. 2⁶⁴ seeds, each another world.")
                         .arg(look::wholeNumber(side * side)));
  }
}

}  // namespace app
