#include "app/edit/ground_panel.h"

#include <QPushButton>
#include <QToolButton>
#include <algorithm>

#include "app/edit/lists.h"
#include "app/look/look.h"
#include "strata/blocks.h"

namespace app {
namespace {

using acre::Recipe;

/// Everything that changes which rows there are, or what their choices offer.
std::string groundShape(const Recipe& r) {
  std::string out = acre::kindName(r.frame.kind);
  for (const acre::Material& m : r.materials) out += "|" + m.id + m.name;
  for (const acre::DepthLayer& l : r.layers) out += "/" + l.id + l.material;
  for (const acre::Bed& b : r.rock.beds) out += ";" + b.id + b.material;
  for (const acre::Ore& o : r.ores)
    out += "," + o.id + o.material + (o.on ? "1" : "0") +
           (o.shape == acre::Ore::Shape::Vein ? "v" : "p");
  return out + r.water.material + (r.overhang.on ? "o" : "");
}

NumberField* narrow(NumberField* field, int width = 74) {
  field->setFixedWidth(width);
  return field;
}

}  // namespace

GroundPanel::GroundPanel(Document& document, const Statistics& statistics, QWidget* parent)
    : Editor(document, parent), statistics_(statistics) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(0, 0, 0, 0);
  refresh();
}

void GroundPanel::refresh() {
  const acre::Frame& frame = document_.recipe().frame;
  setVisible(frame.blocks() || frame.kind == acre::WorldKind::Level);
  if (const std::string shape = groundShape(document_.recipe()); shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshNumbers();
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
  column->addSpacing(8);
  column->addWidget(ruleLine());
  const bool level = document_.recipe().frame.kind == acre::WorldKind::Level;
  column->addWidget(heading(level ? tr("Layers around what is open, from there inward")
                                  : tr("Layers below the surface, from the top")));
  for (const acre::DepthLayer& layer : document_.recipe().layers) {
    const std::string id = layer.id;
    const QString key = QStringLiteral("ground.layer.") + QString::fromStdString(id);
    auto* row = new QHBoxLayout;
    row->setSpacing(5);
    row->addWidget(
        materialChoice(key + QStringLiteral(".material"), tr("Material of a layer"), layer.material,
            {{tr("as the bands say"), acre::kSurfaceId}, {tr("unassigned"), acre::kUnassignedId}},
            [id](Recipe& r, const std::string& m) {
              if (auto* l = withId(r.layers, id)) l->material = m;
            }),
        1);
    const Place<acre::DepthLayer> place = [id](Recipe& r) { return withId(r.layers, id); };
    const auto number = [&](double acre::DepthLayer::*member) {
      row->addWidget(
          narrow(bindNumber(key, tr("a layer"), declared<acre::DepthLayer>(layer, place, member))));
    };
    number(&acre::DepthLayer::thickness);
    if (!layer.field.empty()) number(&acre::DepthLayer::vary);
    row->addWidget(deleteButton(key + QStringLiteral(".delete"), tr("Delete layer"),
        [id](Recipe& r) { std::erase_if(r.layers, [&](auto& l) { return l.id == id; }); }));
    column->addLayout(row);
  }
  auto* add = new QPushButton(tr("Add layer by depth"));
  add->setObjectName(QStringLiteral("ground.addLayer"));
  connect(add, &QPushButton::clicked, this, [this] {
    apply(tr("Add layer by depth"), [](Recipe& r) {
      const bool first = r.layers.empty();
      r.layers.push_back({acre::freshId("layer", idsOf(r.layers)),
          first || r.materials.empty() ? acre::kSurfaceId : r.materials.back().id,
          first ? 1.0 : 3.0, {}, 0});
    });
  });
  auto* row = new QHBoxLayout;
  row->addWidget(add);
  row->addStretch(1);
  column->addLayout(row);
}

void GroundPanel::addRock(QVBoxLayout* column) {
  column->addSpacing(8);
  column->addWidget(ruleLine());
  auto* head = new QHBoxLayout;
  head->addWidget(heading(tr("Beds of rock")), 1);
  const Place<acre::Rock> rock = [](Recipe& r) { return &r.rock; };
  const auto number = [&](const QString& label, double acre::Rock::*member) {
    head->addWidget(caption(label));
    head->addWidget(narrow(bindNumber(QStringLiteral("ground.rock"), tr("the rock"),
        declared<acre::Rock>(document_.recipe().rock, rock, member))));
  };
  number(tr("top at"), &acre::Rock::top);
  if (!document_.recipe().rock.bend.empty()) number(tr("bent by"), &acre::Rock::lift);
  column->addLayout(head);
  const auto& beds = document_.recipe().rock.beds;
  for (const acre::Bed& bed : beds) {
    const std::string id = bed.id;
    const QString key = QStringLiteral("ground.bed.") + QString::fromStdString(id);
    auto* row = new QHBoxLayout;
    row->setSpacing(5);
    row->addWidget(materialChoice(key + QStringLiteral(".material"), tr("Material of a bed"),
                       bed.material, {{tr("unassigned"), acre::kUnassignedId}},
                       [id](Recipe& r, const std::string& m) {
                         if (auto* b = withId(r.rock.beds, id)) b->material = m;
                       }),
        1);
    if (&bed == &beds.back())
      row->addWidget(caption(tr("all below")));
    else
      row->addWidget(narrow(bindNumber(key, tr("a bed"),
          declaredAs<acre::Bed>(
              acre::aboutAt(document_.recipe().rock, &bed.thickness),
              [id](Recipe& r) { return withId(r.rock.beds, id); }, &acre::Bed::thickness))));
    row->addWidget(deleteButton(key + QStringLiteral(".delete"), tr("Delete bed"),
        [id](Recipe& r) { std::erase_if(r.rock.beds, [&](auto& b) { return b.id == id; }); }));
    column->addLayout(row);
  }
  auto* add = new QPushButton(tr("Add bed"));
  add->setObjectName(QStringLiteral("ground.addBed"));
  connect(add, &QPushButton::clicked, this, [this] {
    apply(tr("Add bed"), [](Recipe& r) {
      r.rock.beds.push_back({acre::freshId("bed", idsOf(r.rock.beds)),
          r.materials.empty() ? acre::kUnassignedId : r.materials.back().id, 16});
    });
  });
  auto* row = new QHBoxLayout;
  row->addWidget(add);
  row->addStretch(1);
  column->addLayout(row);
}

void GroundPanel::addOres(QVBoxLayout* column) {
  column->addSpacing(8);
  column->addWidget(ruleLine());
  column->addWidget(heading(tr("Ores, in order")));
  const acre::OreStage* stage = document_.world() && planOf(*document_.world()).blocks()
                                    ? planOf(*document_.world()).blocks()->ores()
                                    : nullptr;
  const auto& ores = document_.recipe().ores;
  for (size_t i = 0; i < ores.size(); ++i) {
    const std::string id = ores[i].id;
    const QString key = QStringLiteral("ground.ore.") + QString::fromStdString(id);
    auto* row = new QHBoxLayout;
    row->setSpacing(5);
    auto* on = new Tick(QString());
    on->setObjectName(key + QStringLiteral(".on"));
    on->setAccessibleName(tr("Ore on"));
    on->setChecked(ores[i].on);
    connect(on, &Tick::toggled, this, [this, id](bool state) {
      apply(state ? tr("Switch ore on") : tr("Switch ore off"), [&](Recipe& r) {
        if (auto* o = withId(r.ores, id)) o->on = state;
      });
    });
    row->addWidget(on);
    row->addWidget(materialChoice(key + QStringLiteral(".material"), tr("Material of an ore"),
                       ores[i].material, {},
                       [id](Recipe& r, const std::string& m) {
                         if (auto* o = withId(r.ores, id)) o->material = m;
                       }),
        1);
    auto* shape = new Choice;
    shape->setObjectName(key + QStringLiteral(".shape"));
    shape->addItems({tr("pockets"), tr("veins")});
    shape->setFixedWidth(84);
    shape->setCurrentIndex(static_cast<int>(ores[i].shape));
    shape->setToolTip(
        tr("Pockets: balls of about the radius. Veins: bent spindles of about the length."));
    connect(shape, &Choice::activated, this, [this, id](int index) {
      apply(tr("Shape of an ore"), [&](Recipe& r) {
        if (auto* o = withId(r.ores, id)) o->shape = static_cast<acre::Ore::Shape>(index);
      });
    });
    row->addWidget(shape);
    row->addWidget(deleteButton(key + QStringLiteral(".delete"), tr("Delete ore"),
        [id](Recipe& r) { std::erase_if(r.ores, [&](auto& o) { return o.id == id; }); }));
    column->addLayout(row);
    auto* second = new QHBoxLayout;
    second->setSpacing(5);
    second->addSpacing(22);
    const Place<acre::Ore> place = [id](Recipe& r) { return withId(r.ores, id); };
    const auto number = [&](double acre::Ore::*member) {
      const Number one = declared<acre::Ore>(ores[i], place, member);
      second->addWidget(caption(one.label));
      second->addWidget(narrow(bindNumber(key, tr("an ore"), one), 76));
    };
    number(&acre::Ore::share);
    number(&acre::Ore::radius);
    if (ores[i].shape == acre::Ore::Shape::Vein) number(&acre::Ore::length);
    second->addStretch(1);
    column->addLayout(second);
    auto* found = caption({});
    found->setObjectName(key + QStringLiteral(".found"));
    found->setContentsMargins(22, 0, 0, 0);
    found->setWordWrap(true);
    column->addWidget(found);
    found_[id] = found;
    if (stage)
      for (const acre::OreShortage& lack : stage->shortages())
        if (lack.ore == i) {
          auto* note = new QLabel(
              lack.noHost
                  ? tr("No rock that may hold it lies within the vertical range.")
                  : tr("At y %1 it would need %2 % of the rock: the curve of depth asks for "
                       "more than there is.")
                        .arg(lack.y)
                        .arg(lack.wanted * 100, 0, 'f', 0));
          note->setWordWrap(true);
          column->addWidget(note);
        }
  }
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
  auto* row = new QHBoxLayout;
  row->addWidget(add);
  row->addStretch(1);
  column->addLayout(row);
}

void GroundPanel::addOverhang(QVBoxLayout* column) {
  column->addSpacing(8);
  column->addWidget(ruleLine());
  auto* head = new QHBoxLayout;
  auto* on = new Tick(tr("Overhangs: cliffs and arches about the surface"));
  on->setObjectName(QStringLiteral("ground.overhang"));
  on->setChecked(document_.recipe().overhang.on);
  connect(on, &Tick::toggled, this, [this](bool state) {
    apply(state ? tr("Switch overhangs on") : tr("Switch overhangs off"),
        [&](Recipe& r) { r.overhang.on = state; });
  });
  head->addWidget(on);
  column->addLayout(head);
  if (!document_.recipe().overhang.on) return;
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  const acre::Overhang& now = document_.recipe().overhang;
  const auto number = [&](Number one) {
    row->addWidget(caption(one.label));
    row->addWidget(
        narrow(bindNumber(QStringLiteral("ground.overhang"), tr("the overhangs"), one), 80));
  };
  const Place<acre::Overhang> place = [](Recipe& r) { return &r.overhang; };
  const Place<acre::NoiseSource> noise = [](Recipe& r) { return &r.overhang.noise; };
  number(declared<acre::Overhang>(now, place, &acre::Overhang::reach));
  number(declared<acre::Overhang>(now, place, &acre::Overhang::amount));
  number(declared<acre::NoiseSource>(now.noise, noise, &acre::NoiseSource::width));
  row->addStretch(1);
  column->addLayout(row);
}

void GroundPanel::addWater(QVBoxLayout* column) {
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  row->addWidget(new QLabel(tr("Open below the sea")));
  row->addWidget(materialChoice(QStringLiteral("ground.water"), tr("Sea of a world of blocks"),
                     document_.recipe().water.material, {{tr("stays open"), std::string()}},
                     [](Recipe& r, const std::string& m) { r.water.material = m; }),
      1);
  column->addLayout(row);
}

}  // namespace app
