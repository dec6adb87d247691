// The Biomes editor's regions and borders.
#include <QSignalBlocker>
#include <algorithm>

#include "app/biome/biomes_editor.h"
#include "app/biome/controls.h"
#include "app/look/look.h"

namespace app {

using acre::Biomes;
using acre::Recipe;

namespace {

/// A grid whose rows hold two numbers with what they are called.
QGridLayout* twoPairsWide() {
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(6);
  grid->setVerticalSpacing(4);
  grid->setColumnStretch(4, 1);
  return grid;
}

void addPair(QGridLayout* grid, int row, int column, QLabel* label, QWidget* widget) {
  grid->addWidget(label, row, column);
  grid->addWidget(widget, row, column + 1);
}

}  // namespace

// ---- regions and borders -----------------------------------------------------------------------

NumberField* BiomesEditor::stageNumber(const char* key, const QString& step, const NumberSpec& spec,
    std::function<double*(Biomes&)> place, const QString& tip) {
  auto* field = bindNumber(spec, QLatin1String(key), step,
      {[place](const Recipe& r) { return std::optional(*place(const_cast<Biomes&>(r.biomes))); },
          [place](Recipe& r, double v) { *place(r.biomes) = v; }},
      tip);
  field->setFixedWidth(92);
  return field;
}

void BiomesEditor::buildRegions(QVBoxLayout* column) {
  column->addSpacing(6);
  column->addWidget(ruleLine());
  auto* on = new Tick(tr("Lay the chart on Voronoi regions"));
  on->setObjectName(QStringLiteral("regions.on"));
  on->setChecked(biomes().regions.on);
  on->setToolTip(tr("One site in every square; each place belongs to the nearest."));
  connect(on, &Tick::toggled, this, [this](bool checked) {
    const bool taken = applyBiomes(checked ? tr("Regions on") : tr("Regions off"), [&](Biomes& b) {
      b.regions.on = checked;
      // Borders wider than a region would make no sense.
      if (checked) b.border.ground = std::min(b.border.ground, b.regions.size);
    });
    if (!taken) refresh();
  });
  column->addWidget(on);
  if (!biomes().regions.on) return;
  QGridLayout* grid = twoPairsWide();
  auto* choice = new Choice;
  choice->setObjectName(QStringLiteral("regions.choice"));
  choice->setAccessibleName(tr("Biome of a region"));
  choice->addItems({tr("by the climate at its site"), tr("drawn by the biomes' odds"),
      tr("cell by cell, from the chart")});
  choice->setCurrentIndex(static_cast<int>(biomes().regions.choice));
  connect(choice, &Choice::activated, this, [this](int index) {
    applyBiomes(tr("Biome of a region"),
        [&](Biomes& b) { b.regions.choice = static_cast<acre::Regions::Choice>(index); });
  });
  grid->addWidget(caption(tr("biome")), 0, 0);
  grid->addWidget(choice, 0, 1, 1, 4);
  addPair(grid, 1, 0, caption(tr("size")),
      stageNumber(
          "regions.size", tr("Size of the regions"),
          {acre::limits::regionSize, 1, true, false, tr("cells")},
          [](Biomes& b) { return &b.regions.size; },
          tr("Side of a square with one site: the root of a region's mean area.")));
  addPair(grid, 1, 2, caption(tr("jitter")),
      stageNumber(
          "regions.jitter", tr("Jitter of the sites"),
          {acre::limits::jitter, 0.02, false, false, {}},
          [](Biomes& b) { return &b.regions.jitter; },
          tr("0: sites in the middle of their squares; 1: anywhere in them.")));
  addPair(grid, 2, 0, caption(tr("warp")),
      stageNumber(
          "regions.warp", tr("Warp of the borders"),
          {acre::limits::warpCells, 0.5, false, false, tr("cells")},
          [](Biomes& b) { return &b.regions.warp.cells; },
          tr("How far borders are shifted by noise; 0: straight.")));
  if (biomes().regions.warp.x.empty())
    addPair(grid, 2, 2, caption(tr("features")),
        stageNumber(
            "regions.warpWidth", tr("Feature width of the warp"),
            {acre::limits::width, 1, true, false, tr("cells")},
            [](Biomes& b) { return &b.regions.warp.noise.width; },
            tr("Cells from one bay of a border to the next.")));
  auto* islets = bindNumber({acre::limits::islets, 1, false, true, tr("cells")},
      QStringLiteral("regions.islets"), tr("Islets given back"),
      {[](const Recipe& r) { return std::optional<double>(r.biomes.regions.islets); },
          [](Recipe& r, double v) { r.biomes.regions.islets = static_cast<int>(v); }},
      tr("Pieces that warping cut off a region, of at most so many cells across, go to the\n"
         "neighbour they touch most. 0: they stay. Done up to four cells a pixel."));
  islets->setFixedWidth(92);
  addPair(grid, 4, 0, caption(tr("islets to")), islets);
  buildWarpSource(grid, 3);
  column->addLayout(grid);
}

void BiomesEditor::buildWarpSource(QGridLayout* grid, int row) {
  const std::string x = biomes().regions.warp.x, z = biomes().regions.warp.z;
  const auto choice = [](const char* name, const QString& words) {
    auto* made = new Choice;
    made->setObjectName(QLatin1String(name));
    made->setAccessibleName(words);
    made->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    made->setMinimumContentsLength(8);
    return made;
  };
  const auto offerFields = [this](Choice* into, const std::string& chosen) {
    for (const acre::FieldRecipe* f : acre::fieldsOf(document_.recipe()))
      into->addItem(
          tr("by %1").arg(QString::fromStdString(f->name)), QString::fromStdString(f->id));
    into->setCurrentIndex(into->findData(QString::fromStdString(chosen)));
  };
  auto* by = choice("regions.warpBy", tr("What warps the borders"));
  by->setToolTip(tr("Noise of its own, or two fields of the recipe times the warp's cells."));
  by->addItem(tr("by noise of its own"), QString());
  offerFields(by, x);
  connect(by, &Choice::activated, this, [this, by] {
    const std::string id = by->currentData().toString().toStdString();
    applyBiomes(tr("What warps the borders"), [&](Biomes& b) {
      b.regions.warp.x = id;
      if (id.empty() || b.regions.warp.z.empty()) b.regions.warp.z = id;
    });
  });
  auto* byZ = choice("regions.warpByZ", tr("What warps the borders from north to south"));
  offerFields(byZ, z);
  connect(byZ, &Choice::activated, this, [this, byZ] {
    const std::string id = byZ->currentData().toString().toStdString();
    applyBiomes(tr("What warps the borders"), [&](Biomes& b) { b.regions.warp.z = id; });
  });
  grid->addWidget(caption(tr("warped")), row, 0);
  grid->addWidget(by, row, 1, 1, 2);
  grid->addWidget(byZ, row, 3, 1, 2);
  byZ->setVisible(!x.empty());
}

void BiomesEditor::buildBorders(QVBoxLayout* column) {
  column->addSpacing(6);
  column->addWidget(ruleLine());
  const bool byRegion =
      biomes().regions.on && biomes().regions.choice != acre::Regions::Choice::Cells;
  column->addWidget(heading(tr("Where heights pass from biome to biome")));
  QGridLayout* grid = twoPairsWide();
  if (byRegion)
    addPair(grid, 0, 0, caption(tr("over")),
        stageNumber(
            "border.ground", tr("Width of the borders"),
            {acre::limits::groundBorder, 0.5, false, false, tr("cells")},
            [](Biomes& b) { return &b.border.ground; },
            tr("Cells of ground over which regions blend; at most their size.")));
  else
    addPair(grid, 0, 0, caption(tr("of the chart")),
        stageNumber(
            "border.chart", tr("Width of the borders"),
            {acre::limits::chartBorder, 0.005, false, false, {}},
            [](Biomes& b) { return &b.border.chart; },
            tr("Share of the chart's width over which its rules blend.")));
  borderCells_ = caption({});
  borderCells_->setObjectName(QStringLiteral("border.cells"));
  addPair(grid, 0, 2, caption(tr("altitude")),
      stageNumber(
          "border.altitude", tr("Height of the passage between slices"),
          {acre::limits::soft, 0.5, false, false, tr("cells")},
          [](Biomes& b) { return &b.border.altitude; }, tr("Altitudes over which slices blend.")));
  addPair(grid, 1, 0, caption(tr("coast")),
      stageNumber(
          "border.coast", tr("Altitude of the coast"),
          {acre::limits::soft, 0.5, false, false, tr("cells")}, [](Biomes& b) { return &b.coast; },
          tr("Raise and roughness grow from nothing at the sea to all over this.")));
  addPair(grid, 1, 2, caption(tr("roughness")),
      stageNumber(
          "border.roughness", tr("Feature width of the roughness"),
          {acre::limits::width, 1, true, false, tr("cells")},
          [](Biomes& b) { return &b.roughness.width; },
          tr("Cells from one bump of rough ground to the next.")));
  column->addLayout(grid);
  column->addWidget(borderCells_);
}

}  // namespace app
