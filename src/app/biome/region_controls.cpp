// The Biomes editor's regions and borders.
#include <algorithm>

#include "app/biome/biomes_editor.h"
#include "app/edit/swatch.h"
#include "app/look/look.h"
#include "recipe/validate.h"

namespace app {

using acre::Biomes;
using acre::BorderWidths;
using acre::NoiseSource;
using acre::Recipe;
using acre::Regions;
using acre::RegionWarp;

namespace {

constexpr int kWide = 92;

}  // namespace

/// A number with its words, as wide as its unit needs.
template <class T, class M>
void BiomesEditor::wideNumber(
    Row& row, const Form<T>& made, M T::*member, const QString& words, const char* name) {
  NumberField* field = made.number(member, words);
  if (name) field->setObjectName(QLatin1String(name));
  field->showUnit();
  row.words(words).add(field, kWide);
}

void BiomesEditor::buildRegions(QVBoxLayout* column) {
  column->addSpacing(6);
  column->addWidget(ruleLine());
  const auto biomesForm = form<Biomes>(
      biomes(), [](Recipe& r) { return &r.biomes; }, QStringLiteral("border"), tr("the biomes"));
  const auto made = biomesForm.template within<Regions>(
      biomes().regions, [](Biomes& b) { return &b.regions; }, QStringLiteral("regions"));
  column->addWidget(biomesForm
                        .template within<Biomes>(
                            biomes(), [](Biomes& b) { return &b; }, QStringLiteral("regions"))
                        .tick(
                            "on", tr("Lay the chart on Voronoi regions"), tr("Regions"),
                            tr("One site in every square; each place belongs to the nearest."),
                            [](const Biomes& b) { return b.regions.on; },
                            [](Biomes& b, bool on) {
                              b.regions.on = on;
                              // Borders wider than a region would make no sense.
                              if (on) b.border.ground = std::min(b.border.ground, b.regions.size);
                            }));
  if (!biomes().regions.on) return;
  auto* choice = made.choice(
      &Regions::choice, {tr("by the climate at its site"), tr("drawn by the biomes' odds"),
                            tr("cell by cell, from the chart")});
  choice->setObjectName(made.named("choice"));
  Row(column).words(tr("biome")).add(choice, 1);
  Row size(column, 6);
  wideNumber(size, made, &Regions::size, tr("size"));
  wideNumber(size, made, &Regions::jitter, tr("jitter"));
  size.rest();
  const auto warp =
      made.template within<RegionWarp>(biomes().regions.warp, [](Regions& r) { return &r.warp; });
  Row shift(column, 6);
  wideNumber(shift, warp, &RegionWarp::cells, tr("warp"), "regions.warp");
  if (biomes().regions.warp.x.empty())
    wideNumber(shift,
        warp.template within<NoiseSource>(
            biomes().regions.warp.noise, [](RegionWarp& w) { return &w.noise; }),
        &NoiseSource::width, tr("features"), "regions.warpWidth");
  shift.rest();
  buildWarpSource(column);
  Row islets(column, 6);
  wideNumber(islets, made, &Regions::islets, tr("islets to"));
  islets.rest();
}

void BiomesEditor::buildWarpSource(QVBoxLayout* column) {
  Offered fields;
  for (const acre::FieldRecipe* f : acre::fieldsBeforeWater(document_.recipe()))
    fields.emplace_back(tr("by %1").arg(QString::fromStdString(f->name)), f->id);
  Offered first = fields;
  first.insert(first.begin(), {tr("by noise of its own"), {}});
  Row row(column, 6);
  row.words(tr("warped"))
      .add(bindChoice(
               QStringLiteral("regions.warpBy"), tr("What warps the borders"),
               tr("Noise of its own, or two fields of the recipe times the warp's cells."), first,
               [](const Recipe& r) { return std::optional(r.biomes.regions.warp.x); },
               [](Recipe& r, const std::string& id) {
                 RegionWarp& warp = r.biomes.regions.warp;
                 warp.x = id;
                 if (id.empty() || warp.z.empty()) warp.z = id;
               }),
          1);
  if (!biomes().regions.warp.x.empty())
    row.add(bindChoice(
                QStringLiteral("regions.warpByZ"), tr("What warps the borders from north to south"),
                {}, fields, [](const Recipe& r) { return std::optional(r.biomes.regions.warp.z); },
                [](Recipe& r, const std::string& id) { r.biomes.regions.warp.z = id; }),
        1);
}

void BiomesEditor::buildBorders(QVBoxLayout* column) {
  const bool byRegion = biomes().regions.on && biomes().regions.choice != Regions::Choice::Cells;
  section(column, tr("Where heights pass from biome to biome"));
  const auto all = form<Biomes>(
      biomes(), [](Recipe& r) { return &r.biomes; }, QStringLiteral("border"), tr("the biomes"));
  const auto border =
      all.template within<BorderWidths>(biomes().border, [](Biomes& b) { return &b.border; });
  Row first(column, 6);
  if (byRegion)
    wideNumber(first, border, &BorderWidths::ground, tr("over"));
  else
    wideNumber(first, border, &BorderWidths::chart, tr("of the chart"));
  wideNumber(first, border, &BorderWidths::altitude, tr("altitude"));
  first.rest();
  Row second(column, 6);
  wideNumber(second, all, &Biomes::coast, tr("coast"));
  wideNumber(second,
      all.template within<NoiseSource>(biomes().roughness, [](Biomes& b) { return &b.roughness; }),
      &NoiseSource::width, tr("roughness"), "border.roughness");
  second.rest();
  borderCells_ = caption({});
  borderCells_->setObjectName(QStringLiteral("border.cells"));
  column->addWidget(borderCells_);
}

}  // namespace app
