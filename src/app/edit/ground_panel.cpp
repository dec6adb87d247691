#include "app/edit/ground_panel.h"

#include <algorithm>

#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/look/look.h"
#include "strata/blocks.h"

namespace app {
namespace {

using acre::Recipe;

constexpr int kNarrow = 74;

}  // namespace

GroundPanel::GroundPanel(Document& document, const Statistics& statistics, QWidget* parent)
    : Editor(document, parent), statistics_(statistics) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(0, 0, 0, 0);
  previews_->setPicture(alongCut);
  refresh();
}

void GroundPanel::refresh() {
  const acre::Frame& frame = document_.recipe().frame;
  setVisible(frame.blocks() || frame.kind == acre::WorldKind::Level);
  const Recipe& r = document_.recipe();
  const std::string shape = acre::kindName(r.frame.kind) + namesOf(r.materials) +
                            shapeOf(r.layers) + shapeOf(r.rock) + shapeOf(r.ores) +
                            r.water.material + (r.overhang.on ? "o" : "");
  if (shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshControls();
  refreshFound();
}

void GroundPanel::refreshFound() {
  const auto& blocks = statistics_.blocks();
  for (const auto& [id, label] : found_) {
    QString text = tr("measuring what there is of it");
    if (document_.recipe().frame.kind == acre::WorldKind::Level)
      if (const auto* ore = withId(document_.recipe().ores, id))
        text = tr("asked %1 % of the rock of its beds on every floor")
                   .arg(look::number(ore->share * 100));
    if (blocks) {
      const auto ore = std::find_if(blocks->ores.begin(), blocks->ores.end(),
          [&](const acre::OreFigures& o) { return o.id == id; });
      text = ore == blocks->ores.end()
                 ? tr("off")
                 : tr("asked %1 %, found %2 % of %3 blocks of its rock, in %4 columns")
                       .arg(look::number(ore->asked * 100))
                       .arg(ore->measured() * 100, 0, 'g', 3)
                       .arg(look::wholeNumber(static_cast<qint64>(ore->hosts)),
                           look::wholeNumber(static_cast<qint64>(blocks->columns)));
    }
    label->setText(text);
    label->setEnabled(statistics_.current());
  }
}

void GroundPanel::rebuild() {
  found_.clear();
  QVBoxLayout* column = newBody(column_, 0);
  const acre::Frame& frame = document_.recipe().frame;
  if (frame.blocks() || frame.kind == acre::WorldKind::Level) {
    addLayers(column);
    addRock(column);
    addOres(column);
  }
  if (frame.blocks()) {
    addOverhang(column);
    addWater(column);
  }
}

void GroundPanel::addLayers(QVBoxLayout* column) {
  const bool level = document_.recipe().frame.kind == acre::WorldKind::Level;
  section(column, level ? tr("Layers around what is open, from there inward")
                        : tr("Layers below the surface, from the top"));
  const Offered first = {
      {tr("as the bands say"), acre::kSurfaceId}, {tr("unassigned"), acre::kUnassignedId}};
  for (const acre::DepthLayer& layer : document_.recipe().layers) {
    const std::string id = layer.id;
    const auto made = form<acre::DepthLayer>(
        layer, [id](Recipe& r) { return withId(r.layers, id); },
        QStringLiteral("ground.layer.") + QString::fromStdString(id), tr("a layer"));
    Row row(column);
    row.add(made.material(&acre::DepthLayer::material, first), 1);
    row.add(made.number(&acre::DepthLayer::thickness), kNarrow);
    if (!layer.field.empty()) row.add(made.number(&acre::DepthLayer::vary), kNarrow);
    row.add(deleteButton(made.named("delete"), tr("Delete layer"),
        [id](Recipe& r) { std::erase_if(r.layers, [&](auto& l) { return l.id == id; }); }));
  }
  const auto add = [](Recipe& r) {
    const bool first = r.layers.empty();
    r.layers.push_back({acre::freshId("layer", idsOf(r.layers)),
        first || r.materials.empty() ? acre::kSurfaceId : r.materials.back().id, first ? 1.0 : 3.0,
        {}, 0});
  };
  Row(column)
      .add(button(tr("Add layer by depth"), QStringLiteral("ground.addLayer"), {}, add))
      .rest();
}

void GroundPanel::addRock(QVBoxLayout* column) {
  column->addSpacing(8);
  column->addWidget(ruleLine());
  const acre::Rock& rock = document_.recipe().rock;
  const auto all = form<acre::Rock>(
      rock, [](Recipe& r) { return &r.rock; }, QStringLiteral("ground.rock"), tr("the rock"));
  Row head(column);
  head.add(heading(tr("Beds of rock")), 1);
  all.number(head, &acre::Rock::top, kNarrow, tr("top at"));
  if (!rock.bend.empty()) all.number(head, &acre::Rock::lift, kNarrow, tr("bent by"));
  for (const acre::Bed& bed : rock.beds) {
    const std::string id = bed.id;
    const Place<acre::Bed> place = [id](Recipe& r) { return withId(r.rock.beds, id); };
    const QString key = QStringLiteral("ground.bed.") + QString::fromStdString(id);
    Row row(column);
    row.add(
        bindChoice(
            key + QStringLiteral(".material"), tr("Material of a bed"),
            tr("What the bed is made of."), materials({{tr("unassigned"), acre::kUnassignedId}}),
            [place](const Recipe& r) -> std::optional<std::string> {
              const auto* b = place(const_cast<Recipe&>(r));  // Only looked at.
              return b ? std::optional(b->material) : std::nullopt;
            },
            [place](Recipe& r, const std::string& m) {
              if (auto* b = place(r)) b->material = m;
            }),
        1);
    if (&bed == &rock.beds.back())
      row.words(tr("all below"));
    else
      row.add(bindNumber(key, tr("a bed"),
                  declaredAs<acre::Bed>(
                      acre::aboutAt(rock, &bed.thickness), place, &acre::Bed::thickness)),
          kNarrow);
    row.add(deleteButton(key + QStringLiteral(".delete"), tr("Delete bed"),
        [id](Recipe& r) { std::erase_if(r.rock.beds, [&](auto& b) { return b.id == id; }); }));
  }
  const auto add = [](Recipe& r) {
    r.rock.beds.push_back({acre::freshId("bed", idsOf(r.rock.beds)),
        r.materials.empty() ? acre::kUnassignedId : r.materials.back().id, 16});
  };
  Row(column).add(button(tr("Add bed"), QStringLiteral("ground.addBed"), {}, add)).rest();
}

void GroundPanel::addOres(QVBoxLayout* column) {
  listSection(column, tr("Ores, in order"), "/strata/ores");
  const auto& ores = document_.recipe().ores;
  for (size_t i = 0; i < ores.size(); ++i) addOre(column, i);
  auto* add = new QPushButton(tr("Add ore"));
  add->setObjectName(QStringLiteral("ground.addOre"));
  connect(add, &QPushButton::clicked, this, [this] {
    if (document_.recipe().materials.empty()) return emit refused(tr("Add a material first."));
    apply(tr("Add ore"), [](Recipe& r) {
      acre::Ore ore;
      ore.id = acre::freshId("ore", idsOf(r.ores));
      ore.material = r.materials.back().id;
      r.ores.push_back(ore);
    });
  });
  Row(column).add(add).rest();
}

void GroundPanel::addOre(QVBoxLayout* column, size_t index) {
  const acre::Ore& ore = document_.recipe().ores[index];
  const std::string id = ore.id;
  const auto made = form<acre::Ore>(
      ore, [id](Recipe& r) { return withId(r.ores, id); },
      QStringLiteral("ground.ore.") + QString::fromStdString(id), tr("an ore"));
  auto* shape = made.choice(&acre::Ore::shape, {tr("pockets"), tr("veins")},
      tr("Pockets: balls of about the radius. Veins: bent spindles of about the length."));
  shape->setFixedWidth(84);
  Row(column)
      .add(made.onTick(&acre::Ore::on))
      .add(made.material(&acre::Ore::material), 1)
      .add(shape)
      .add(deleteButton(made.named("delete"), tr("Delete ore"),
          [id](Recipe& r) { std::erase_if(r.ores, [&](auto& o) { return o.id == id; }); }));
  Row numbers(column);
  numbers.space(22);
  made.number(numbers, &acre::Ore::share, kNarrow).number(numbers, &acre::Ore::radius, kNarrow);
  if (ore.shape == acre::Ore::Shape::Vein) made.number(numbers, &acre::Ore::length, kNarrow);
  numbers.rest();
  auto* found = caption({});
  found->setObjectName(made.named("found"));
  found->setContentsMargins(22, 0, 0, 0);
  found->setWordWrap(true);
  column->addWidget(found);
  found_[id] = found;
  const acre::BlockStage* blocks = planOf(*document_.world()).blocks();
  if (!blocks || !blocks->ores()) return;
  for (const acre::OreShortage& lack : blocks->ores()->shortages()) {
    if (lack.ore != index) continue;
    auto* note = new QLabel(
        lack.noHost ? tr("No rock that may hold it lies within the vertical range.")
                    : tr("At y %1 it would need %2 % of the rock: the curve of depth asks for "
                         "more than there is.")
                          .arg(lack.y)
                          .arg(lack.wanted * 100, 0, 'f', 0));
    note->setWordWrap(true);
    column->addWidget(note);
  }
}

void GroundPanel::addOverhang(QVBoxLayout* column) {
  column->addSpacing(8);
  column->addWidget(ruleLine());
  const acre::Overhang& now = document_.recipe().overhang;
  const auto made = form<acre::Overhang>(
      now, [](Recipe& r) { return &r.overhang; }, QStringLiteral("ground.overhang"),
      tr("the overhangs"));
  auto* on = made.tick(&acre::Overhang::on, tr("Overhangs: cliffs and arches about the surface"));
  on->setObjectName(made.key());
  column->addWidget(on);
  if (!now.on) return;
  const auto noise = made.template within<acre::NoiseSource>(
      now.noise, [](acre::Overhang& o) { return &o.noise; });
  Row row(column);
  made.number(row, &acre::Overhang::reach, 80).number(row, &acre::Overhang::amount, 80);
  noise.number(row, &acre::NoiseSource::width, 80);
  row.rest();
}

void GroundPanel::addWater(QVBoxLayout* column) {
  const auto made = form<acre::SeaWater>(
      document_.recipe().water, [](Recipe& r) { return &r.water; }, QStringLiteral("ground"),
      tr("the sea"));
  auto* water = made.material(&acre::SeaWater::material, {{tr("stays open"), {}}});
  water->setObjectName(QStringLiteral("ground.water"));
  Row(column).add(new QLabel(tr("Open below the sea"))).add(water, 1);
}

}  // namespace app

#include "moc_ground_panel.cpp"
