#include "app/edit/frame_editor.h"

#include <QGridLayout>

#include "app/edit/lists.h"
#include "app/look/look.h"
#include "base/coords.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"
#include "recipe/map_inks.h"
#include "world/demos.h"

namespace app {
namespace {

using acre::Recipe;

/// Whole numbers that a field shows exactly.
constexpr double kExact = 9007199254740992.0;

}  // namespace

FrameEditor::FrameEditor(Document& document, QWidget* parent) : Editor(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 12, 16, 12);
  column->setSpacing(look::kSpace);

  buildHead(column);
  column->addSpacing(8);
  column->addWidget(heading(tr("Bounds")));
  column->addWidget(caption(tr("Bounds only crop: moving them changes no cell that stays.")));
  x_ = addAxis(column, QStringLiteral("x"), &acre::Frame::x);
  z_ = addAxis(column, QStringLiteral("z"), &acre::Frame::z);
  verticalRow_ = new QWidget;
  auto* inner = new QVBoxLayout(verticalRow_);
  inner->setContentsMargins(0, 0, 0, 0);
  addEnds(
      inner, QStringLiteral("y"), new QLabel(tr("y, upwards")),
      [](Recipe& r) { return &r.frame.y; }, {acre::limits::verticalMin, 1, false, true, {}},
      {{1, static_cast<double>(acre::limits::verticalExtent)}, 1, true, true, tr("blocks")},
      tr("The lowest level of blocks that exists."),
      tr("How many levels there are. Shares of ores are of the rock within them."));
  column->addWidget(verticalRow_);
  column->addSpacing(8);
  column->addWidget(heading(tr("Counts")));
  counts_ = new QLabel;
  counts_->setObjectName(QStringLiteral("frame.counts"));
  counts_->setWordWrap(true);
  column->addWidget(counts_);
  column->addSpacing(8);
  column->addWidget(heading(tr("Notes on the world")));
  column->addWidget(bindNote(
      QStringLiteral("frame.note"), tr("Note on the world"),
      [](const Recipe& r) { return std::optional(r.notes.world); },
      [](Recipe& r, const std::string& text) { r.notes.world = text; }));
  column->addStretch(1);
  refresh();
}

void FrameEditor::buildHead(QVBoxLayout* column) {
  const auto made = form<acre::Frame>(
      document_.recipe().frame, [](Recipe& r) { return &r.frame; }, QStringLiteral("frame"),
      tr("the world"));
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(12);
  grid->setVerticalSpacing(look::kSpace);
  grid->setColumnStretch(2, 1);
  grid->setColumnMinimumWidth(1, 190);
  auto* name = bindText(
      QStringLiteral("frame.name"), tr("Name of the world"), {},
      [](const Recipe& r) { return std::optional(r.name); },
      [](Recipe& r, const std::string& text) { r.name = text; });
  name->setMaxLength(100);
  grid->addWidget(new QLabel(tr("Name")), 0, 0);
  grid->addWidget(name, 0, 1, 1, 2);
  kinds_ = new KindPictures;
  connect(kinds_, &KindPictures::chosen, this,
      [this](acre::WorldKind kind) { chooseKind(kind, document_.recipe().frame.shape); });
  grid->addWidget(kinds_, 1, 0, 1, 3);
  shape_ = new Choice;
  shape_->setObjectName(QStringLiteral("frame.shape"));
  shape_->setAccessibleName(tr("Shape of chunks"));
  shape_->addItems({tr("Cubes"), tr("Tall columns")});
  shape_->setToolTip(
      tr("What a chunk of blocks is: as high as it is wide, or all levels there are."));
  connect(shape_, &Choice::activated, this, [this](int index) {
    chooseKind(
        acre::WorldKind::Voxel, index == 0 ? acre::ChunkShape::Cubes : acre::ChunkShape::Columns);
  });
  shapeLabel_ = new QLabel(tr("Chunks"));
  grid->addWidget(shapeLabel_, 2, 0);
  grid->addWidget(shape_, 2, 1);
  grid->addWidget(new QLabel(tr("Chunk side")), 3, 0);
  grid->addWidget(
      made.number(
          "chunk", tr("Chunk side"), {acre::limits::chunkSize, 1, true, true, tr("cells")},
          tr("Cells along one side of a chunk. Changes no cell, only how they are cut."),
          [](const acre::Frame& f) { return std::optional<double>(f.chunkSize); },
          [](acre::Frame& f, double v) { f.chunkSize = static_cast<int32_t>(v); }),
      3, 1);
  grid->addWidget(new QLabel(tr("Sea level")), 4, 0);
  grid->addWidget(made.number(
                      "sea", tr("Sea level"), {acre::limits::altitude, 0.5, false, false, {}},
                      tr("Altitude of the sea. Bands that are measured from the sea move with it."),
                      [this](const acre::Frame& f) {
                        // A held share decides the level; the world knows how it came out.
                        return std::optional(
                            f.seaShare ? planOf(*document_.world()).seaLevel() : f.seaLevel);
                      },
                      [](acre::Frame& f, double v) {
                        f.seaLevel = v;
                        f.seaShare.reset();
                      }),
      4, 1);
  column->addLayout(grid);
  starts_ = new QWidget;
  auto* begin = new QVBoxLayout(starts_);
  begin->setContentsMargins(0, 8, 0, 0);
  begin->setSpacing(look::kSpace);
  begin->addWidget(heading(tr("Begin with")));
  auto* pictures = new StartPictures(document_);
  connect(pictures, &StartPictures::chosen, this, &FrameEditor::beginWith);
  begin->addWidget(pictures);
  column->addWidget(starts_);
}

/// The first cell of an axis, and how many there are.
FrameEditor::AxisRow FrameEditor::addEnds(QVBoxLayout* column, const QString& axis, QWidget* before,
    const Place<acre::AxisBounds>& place, const NumberSpec& first, const NumberSpec& count,
    const QString& firstTip, const QString& countTip) {
  const auto end = [&](const char* key, const QString& step, const NumberSpec& spec,
                       const QString& tip, int64_t acre::AxisBounds::*member) {
    return bindNumber(spec, QStringLiteral("frame.%1.%2").arg(QLatin1String(key), axis), step,
        {[place, member](const Recipe& r) -> std::optional<double> {
           const auto* bounds = place(const_cast<Recipe&>(r));  // Only looked at.
           return bounds ? std::optional(static_cast<double>(bounds->*member)) : std::nullopt;
         },
            [place, member](Recipe& r, double v) {
              if (auto* bounds = place(r)) bounds->*member = static_cast<int64_t>(v);
            }},
        tip);
  };
  AxisRow row;
  row.min = end("min", tr("First cell of %1").arg(axis), first, firstTip, &acre::AxisBounds::min);
  row.extent =
      end("extent", tr("Extent of %1").arg(axis), count, countTip, &acre::AxisBounds::extent);
  Row(column, look::kSpace).add(before, 1).words(tr("from")).add(row.min, 96).add(row.extent, 116);
  return row;
}

FrameEditor::AxisRow FrameEditor::addAxis(QVBoxLayout* column, const QString& axis,
    std::optional<acre::AxisBounds> acre::Frame::*member) {
  auto* bounded = bindTick(
      QStringLiteral("frame.bounded.") + axis,
      axis == QStringLiteral("x") ? tr("x, west to east") : tr("z, north to south"),
      tr("Bounds of %1").arg(axis),
      tr("On: the world ends at these cells. Off: it is endless along this axis."),
      [member](const Recipe& r) { return std::optional((r.frame.*member).has_value()); },
      [member](Recipe& r, bool on) {
        r.frame.*member = on ? std::optional(acre::AxisBounds{-256, 512}) : std::nullopt;
      });
  return addEnds(
      column, axis, bounded,
      [member](Recipe& r) { return r.frame.*member ? &*(r.frame.*member) : nullptr; },
      {{-kExact, kExact}, 1, false, true, {}}, {{1, kExact}, 1, true, true, tr("cells")},
      tr("The first cell that exists."),
      tr("How many cells there are. Any number; the last chunk may be partial."));
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
    r.materials.push_back({level.open, "Floor", acre::inks::kSnow, MaterialState::Passable});
  }
  if (r.layers.empty()) {
    const std::string wall = acre::freshId("wall", idsOf(r.materials));
    r.materials.push_back({wall, "Wall", acre::inks::kMudflat, MaterialState::Solid});
    r.layers = {{"lining", wall, 1, {}, 0}};
  }
  if (!level.processes.empty()) return;
  level.processes = {{"caverns", "Caverns", true, acre::FilledAutomaton{}},
      {"ways", "Ways between", true, acre::LevelSpaces{}}};
}

}  // namespace

void FrameEditor::beginWith(const QString& start) {
  const auto recipe = acre::loadRecipe(start.toStdString());
  if (!recipe) return emit refused(QString::fromStdString(recipe.error().text()));
  if (document_.change(tr("Begin with %1").arg(QString::fromStdString(recipe->name)), *recipe))
    emit begun();
}

/// What a world of blocks or a level cannot be without is there from the start.
void FrameEditor::chooseKind(acre::WorldKind kind, acre::ChunkShape shape) {
  apply(tr("Kind of world"), [kind, shape](acre::Recipe& r) {
    using acre::MaterialState;
    r.frame.kind = kind;
    if (r.frame.kind == acre::WorldKind::Level) return makeLevel(r);
    r.frame.shape = shape;
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
      r.materials.push_back({id, "Rock", acre::inks::kScree, MaterialState::Solid});
      r.rock.beds = {{"bed-1", id, 16}};
    }
    if (r.layers.empty()) r.layers = {{"top", acre::kSurfaceId, 2, {}, 0}};
    if (r.water.material.empty()) r.water.material = firstOf(MaterialState::Liquid);
  });
  refresh();
}

void FrameEditor::refresh() {
  const acre::Frame& frame = document_.recipe().frame;
  kinds_->show(frame.kind);
  const bool voxel = frame.kind == acre::WorldKind::Voxel;
  shape_->setCurrentIndex(frame.shape == acre::ChunkShape::Cubes ? 0 : 1);
  shape_->setVisible(voxel);
  shapeLabel_->setVisible(voxel);
  // A world that has a file, or is a demo, is nothing to begin with.
  starts_->setVisible(document_.file().isEmpty() && document_.source().isEmpty());
  verticalRow_->setVisible(frame.blocks());
  for (const auto& [row, axis] : {std::pair(&x_, &frame.x), std::pair(&z_, &frame.z)}) {
    row->min->setEnabled(axis->has_value());
    row->extent->setEnabled(axis->has_value());
  }
  refreshControls();
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

#include "moc_frame_editor.cpp"
