// The Biomes editor's regions and borders.
#include <QSignalBlocker>
#include <algorithm>

#include "app/biome/biomes_editor.h"
#include "app/biome/controls.h"
#include "app/look/look.h"

namespace app {

using acre::Biomes;
using acre::BorderWidths;
using acre::NoiseSource;
using acre::Recipe;
using acre::Regions;
using acre::RegionWarp;

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

template <class T>
NumberField* BiomesEditor::stageNumber(
    const char* name, const QString& of, Place<T> place, double T::*member) {
  acre::Recipe now = document_.recipe();
  Number number = declared<T>(*place(now), place, member);
  number.spec.bare = false;
  auto* field = bindNumber(number.spec, QLatin1String(name), tr("%1 of %2").arg(number.title, of),
      number.access, number.tip);
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
  const Place<Regions> regions = [](Recipe& r) { return &r.biomes.regions; };
  const Place<RegionWarp> warp = [](Recipe& r) { return &r.biomes.regions.warp; };
  QGridLayout* grid = twoPairsWide();
  auto* choice = new Choice;
  choice->setObjectName(QStringLiteral("regions.choice"));
  choice->setAccessibleName(tr("Biome of a region"));
  choice->addItems({tr("by the climate at its site"), tr("drawn by the biomes' odds"),
      tr("cell by cell, from the chart")});
  choice->setCurrentIndex(static_cast<int>(biomes().regions.choice));
  connect(choice, &Choice::activated, this, [this](int index) {
    applyBiomes(tr("Biome of a region"),
        [&](Biomes& b) { b.regions.choice = static_cast<Regions::Choice>(index); });
  });
  grid->addWidget(caption(tr("biome")), 0, 0);
  grid->addWidget(choice, 0, 1, 1, 4);
  addPair(grid, 1, 0, caption(tr("size")),
      stageNumber("regions.size", tr("the regions"), regions, &Regions::size));
  addPair(grid, 1, 2, caption(tr("jitter")),
      stageNumber("regions.jitter", tr("the sites"), regions, &Regions::jitter));
  addPair(grid, 2, 0, caption(tr("warp")),
      stageNumber("regions.warp", tr("the warp"), warp, &RegionWarp::cells));
  if (biomes().regions.warp.x.empty())
    addPair(grid, 2, 2, caption(tr("features")),
        stageNumber("regions.warpWidth", tr("the warp"),
            Place<NoiseSource>([](Recipe& r) { return &r.biomes.regions.warp.noise; }),
            &NoiseSource::width));
  const Number pieces = declared<Regions>(biomes().regions, regions, &Regions::islets);
  auto* islets = bindNumber(pieces.spec, QStringLiteral("regions.islets"), tr("Islets given back"),
      pieces.access, pieces.tip);
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
  const bool byRegion = biomes().regions.on && biomes().regions.choice != Regions::Choice::Cells;
  column->addWidget(heading(tr("Where heights pass from biome to biome")));
  QGridLayout* grid = twoPairsWide();
  const Place<BorderWidths> border = [](Recipe& r) { return &r.biomes.border; };
  const QString of = tr("the borders");
  if (byRegion)
    addPair(grid, 0, 0, caption(tr("over")),
        stageNumber("border.ground", of, border, &BorderWidths::ground));
  else
    addPair(grid, 0, 0, caption(tr("of the chart")),
        stageNumber("border.chart", of, border, &BorderWidths::chart));
  borderCells_ = caption({});
  borderCells_->setObjectName(QStringLiteral("border.cells"));
  addPair(grid, 0, 2, caption(tr("altitude")),
      stageNumber("border.altitude", of, border, &BorderWidths::altitude));
  addPair(grid, 1, 0, caption(tr("coast")),
      stageNumber("border.coast", tr("the biomes"),
          Place<Biomes>([](Recipe& r) { return &r.biomes; }), &Biomes::coast));
  addPair(grid, 1, 2, caption(tr("roughness")),
      stageNumber("border.roughness", tr("the roughness"),
          Place<NoiseSource>([](Recipe& r) { return &r.biomes.roughness; }), &NoiseSource::width));
  column->addLayout(grid);
  column->addWidget(borderCells_);
}

}  // namespace app
