#include "app/edit/caves_editor.h"

#include <QGridLayout>
#include <QLineEdit>
#include <QPushButton>
#include <algorithm>
#include <cmath>

#include "app/edit/lists.h"
#include "app/look/look.h"
#include "recipe/automaton_rule.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"

namespace app {
namespace {

using acre::AutomatonLayer;
using acre::CaveKind;
using acre::NoiseVoid;
using acre::Recipe;
using acre::Tunnels;

/// A value so many times over, without the dust of binary fractions.
double shown(double value, double scale) {
  return std::round(value * scale * 1e9) / 1e9;
}

/// Everything that changes which rows there are, or what their choices and texts offer.
std::string cavesShape(const Recipe& r) {
  const acre::Caves& c = *r.caves;
  std::string out = r.frame.blocks() ? "blocks" : "tiles";
  out += c.on ? "+" : "-";
  for (const acre::Material& m : r.materials) out += "|" + m.id + m.name;
  for (const Tunnels& t : c.tunnels) out += "/t" + t.id + (t.on ? "1" : "0") + t.water;
  for (const NoiseVoid& v : c.voids)
    out += "/v" + v.id + (v.on ? "1" : "0") + (v.second ? "2" : "1") + (v.underSea ? "u" : "");
  for (const AutomatonLayer& a : c.automata) {
    out += "/a" + a.id + (a.on ? "1" : "0") + (a.volume ? "v" : "f") + a.rule +
           std::to_string(static_cast<int>(a.edge));
    for (const double y : a.floors) out += "," + std::to_string(y);
  }
  for (const CaveKind& k : c.kinds) out += "/k" + k.id + k.name + k.floor + ">" + k.wall;
  return out + c.opening + (r.climate.on ? "c" : "");
}

QString floorsText(const std::vector<double>& floors) {
  QStringList out;
  for (const double y : floors) out << look::number(y);
  return out.join(QStringLiteral(", "));
}

}  // namespace

CavesEditor::CavesEditor(Document& document, const Statistics& statistics, QWidget* parent)
    : Editor(document, parent), statistics_(statistics) {
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  connect(&statistics_, &Statistics::changed, this, &CavesEditor::refreshFound);
  refresh();
}

void CavesEditor::refresh() {
  if (const std::string shape = cavesShape(document_.recipe()); shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshNumbers();
  refreshFound();
}

QString CavesEditor::figures() const {
  const auto& blocks = statistics_.blocks();
  if (!blocks || blocks->ground == 0 || blocks->caves.empty()) return {};
  uint64_t dug = 0;
  for (const acre::CaveFigures& c : blocks->caves) dug += c.cells;
  return tr("%1 % of the ground is open")
      .arg(100.0 * static_cast<double>(dug) / static_cast<double>(blocks->ground), 0, 'f', 2);
}

void CavesEditor::refreshFound() {
  const auto& blocks = statistics_.blocks();
  for (const auto& [id, label] : found_) {
    QString text = tr("measuring what it opens");
    if (blocks) {
      const auto part = std::find_if(blocks->caves.begin(), blocks->caves.end(),
          [&](const acre::CaveFigures& c) { return c.id == id; });
      text = part == blocks->caves.end()
                 ? tr("off")
                 : tr("opens %1 % of the ground under %2 columns")
                       .arg(100.0 * static_cast<double>(part->cells) /
                                static_cast<double>(std::max<uint64_t>(1, blocks->ground)),
                           0, 'f', 2)
                       .arg(look::wholeNumber(static_cast<qint64>(blocks->columns)));
      if (part != blocks->caves.end() && part->flooded > 0)
        text +=
            tr(", %1 % of it under water")
                .arg(100.0 * static_cast<double>(part->flooded) / static_cast<double>(part->cells),
                    0, 'f', 0);
    }
    const auto& tunnels = document_.recipe().caves->tunnels;
    if (const auto* t = withId(tunnels, id))
      text = tr("reach %1 cells from the site · %2").arg(look::number(acre::tunnelReach(*t)), text);
    label->setText(text);
    label->setEnabled(statistics_.current());
  }
}

void CavesEditor::rebuild() {
  found_.clear();
  QVBoxLayout* column = newBody(column_, 1);
  const Recipe& recipe = document_.recipe();
  const acre::Caves& caves = *recipe.caves;
  if (!caves.on) {
    addSwitch(column, tr("The caves are switched off."), QStringLiteral("caves.switch"),
        [this] { emit switchRequested(); });
  } else {
    if (caves.empty()) {
      auto* none = new QLabel(
          recipe.frame.blocks()
              ? tr("No cave yet. Add tunnel systems, voids where a noise says so, or floors and "
                   "volumes of a cellular automaton.")
              : tr("No cave yet. In a world of tiles only the openings of tunnel systems show."));
      none->setWordWrap(true);
      column->addWidget(none);
    }
    for (const Tunnels& part : caves.tunnels) addTunnels(column, part);
    for (const NoiseVoid& part : caves.voids) addVoid(column, part);
    for (const AutomatonLayer& part : caves.automata) addAutomaton(column, part);
    addButtons(column);
    if (recipe.frame.blocks()) {
      column->addSpacing(8);
      column->addWidget(ruleLine());
      column->addWidget(heading(tr("Cave kinds, in order")));
      for (const CaveKind& kind : caves.kinds) addKind(column, kind);
      auto* add = new QPushButton(tr("Add cave kind"));
      add->setObjectName(QStringLiteral("caves.addKind"));
      add->setToolTip(tr("What floors and walls of caves are made of, by depth and moisture."));
      connect(add, &QPushButton::clicked, this, [this] {
        apply(tr("Add cave kind"), [](Recipe& r) {
          CaveKind kind;
          kind.id = acre::freshId("kind", idsOf(r.caves->kinds));
          kind.name = "Galleries";
          if (!r.materials.empty()) kind.floor = r.materials.back().id;
          r.caves->kinds.push_back(kind);
        });
      });
      auto* row = new QHBoxLayout;
      row->addWidget(add);
      row->addStretch(1);
      row->addWidget(caption(tr("ground kept under the sea")));
      auto* cover = bindNumber({acre::limits::seaCover, 0.2, false, false, {}},
          QStringLiteral("caves.seaCover"), tr("Ground kept under the sea"),
          {[](const Recipe& r) { return std::optional(r.caves->seaCover); },
              [](Recipe& r, double v) { r.caves->seaCover = v; }},
          tr("Cells that stay between caves and the sea, besides what "
             "overhangs reach."));
      cover->setFixedWidth(kNumberWidth);
      row->addWidget(cover);
      column->addLayout(row);
    } else if (!caves.tunnels.empty()) {
      auto* row = new QHBoxLayout;
      row->addWidget(new QLabel(tr("Openings are cells of")));
      row->addWidget(materialChoice(QStringLiteral("caves.opening"), tr("Material of openings"),
                         caves.opening, {{tr("none: not shown"), std::string()}},
                         [](Recipe& r, const std::string& m) { r.caves->opening = m; }),
          1);
      column->addLayout(row);
    }
  }
  column->addStretch(1);
}

template <class T>
void CavesEditor::edit(const QString& step, List<T> list, const std::string& id,
    const std::function<void(T&)>& change) {
  apply(step, [&](Recipe& r) {
    if (T* part = withId((*r.caves).*list, id)) change(*part);
  });
}

template <class T>
void CavesEditor::addHead(QVBoxLayout* column, List<T> list, const T& part, const QString& what) {
  if (column->count() > 0) {
    column->addSpacing(8);
    column->addWidget(ruleLine());
  }
  const std::string id = part.id;
  const QString key = QStringLiteral("caves.") + QString::fromStdString(id);
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  auto* on = new Tick(QString());
  on->setObjectName(key + QStringLiteral(".on"));
  on->setAccessibleName(tr("%1 on").arg(what));
  on->setChecked(part.on);
  connect(on, &Tick::toggled, this, [this, list, id, what](bool state) {
    edit<T>(state ? tr("Switch %1 on").arg(what) : tr("Switch %1 off").arg(what), list, id,
        [state](T& p) { p.on = state; });
  });
  row->addWidget(on);
  row->addWidget(heading(what));
  row->addWidget(caption(QString::fromStdString(id)), 1);
  row->addWidget(deleteButton(
      key + QStringLiteral(".delete"), tr("Delete %1").arg(what), [list, id](Recipe& r) {
        std::erase_if((*r.caves).*list, [&](auto& p) { return p.id == id; });
      }));
  column->addLayout(row);
}

template <class T>
void CavesEditor::addNumbers(QVBoxLayout* column, List<T> list, const std::string& id,
    const std::vector<NumberOf<T>>& numbers) {
  constexpr int kAcross = 3;
  std::vector<Number> bound;
  for (const NumberOf<T>& number : numbers)
    bound.push_back({number.label, QLatin1String(number.key), number.spec,
        {[list, id, v = number.value, s = number.scale](const Recipe& r) -> std::optional<double> {
           const T* part = withId((*r.caves).*list, id);
           return part ? std::optional(shown(part->*v, s)) : std::nullopt;
         },
            [list, id, v = number.value, s = number.scale](Recipe& r, double seen) {
              if (T* part = withId((*r.caves).*list, id)) part->*v = seen / s;
            }},
        number.tip});
  Editor::addNumbers(
      column, QStringLiteral("caves.") + QString::fromStdString(id), tr("caves"), bound, kAcross);
}

template <class T>
NumberField* CavesEditor::whole(List<T> list, const std::string& id, const char* key,
    const QString& step, const acre::Range& range, int T::*value, const QString& tip) {
  auto* field = bindNumber({range, 0.1, false, true, {}},
      QStringLiteral("caves.") + QString::fromStdString(id) + QLatin1Char('.') + QLatin1String(key),
      step,
      {[list, id, value](const Recipe& r) -> std::optional<double> {
         const T* part = withId((*r.caves).*list, id);
         return part ? std::optional(static_cast<double>(part->*value)) : std::nullopt;
       },
          [list, id, value](Recipe& r, double v) {
            if (T* part = withId((*r.caves).*list, id))
              part->*value = static_cast<int>(std::lround(v));
          }},
      tip);
  field->setFixedWidth(kNumberWidth);
  return field;
}

QLabel* CavesEditor::foundLabel(const std::string& id) {
  auto* label = caption({});
  label->setObjectName(QStringLiteral("caves.%1.found").arg(QString::fromStdString(id)));
  label->setWordWrap(true);
  found_[id] = label;
  return label;
}

void CavesEditor::addTunnels(QVBoxLayout* column, const Tunnels& part) {
  constexpr List<Tunnels> kList = &acre::Caves::tunnels;
  const NumberSpec share{{0, 100}, 0.5, false, false, tr("%")};
  const NumberSpec cells{{0, 992}, 1, false, false, {}};
  const bool blocks = document_.recipe().frame.blocks();
  addHead<Tunnels>(column, kList, part, tr("Tunnel systems"));
  std::vector<NumberOf<Tunnels>> numbers = {
      {tr("squares"), "spacing", {acre::limits::tunnelSpacing, 4, false, true, {}},
          &Tunnels::spacing, 1, tr("Side in cells of the squares that may hold a system each.")},
      {tr("share"), "share", share, &Tunnels::share, 100, tr("Of the squares that hold a system.")},
      {tr("mouths"), "mouths", share, &Tunnels::mouths, 100,
          tr("Of the systems that have a shaft from the site to the open air.")},
      {tr("mouth"), "mouth", {acre::limits::mouth, 0.1, false, false, {}}, &Tunnels::mouth, 1,
          tr("Radius of the shaft at the surface.")}};
  if (blocks) {
    const std::vector<NumberOf<Tunnels>> more = {
        {tr("depth"), "depth", {acre::limits::tunnelDepth, 0.5, false, false, {}}, &Tunnels::depth,
            1, tr("Cells of the site below the surface, at least.")},
        {tr("deeper by"), "depthVary", {acre::limits::tunnelDepth, 0.5, false, false, {}},
            &Tunnels::depthVary, 1, tr("At most so many cells deeper.")},
        {tr("length"), "length", cells, &Tunnels::length, 1,
            tr("Of the main passage from the site, as the crow flies.")},
        {tr("arm"), "arm", cells, &Tunnels::arm, 1,
            tr("Of the arm that leaves the main passage; 0: none.")},
        {tr("own"), "apart", cells, &Tunnels::apart, 1,
            tr("Between the ends of an independent passage; 0: none.")},
        {tr("gap"), "gap", cells, &Tunnels::gap, 1,
            tr("Cells that passages keep from each other, but where the arm leaves.")},
        {tr("path noise"), "noise", {acre::limits::tunnelNoise, 0.05, false, false, {}},
            &Tunnels::noise, 1,
            tr("How many times dearer than the cheapest a lattice point may be. 0: straight; more: "
               "winding.")},
        {tr("shift"), "shift", share, &Tunnels::shift, 100,
            tr("How far points stray from their lattice, of half its step.")},
        {tr("step"), "step", {acre::limits::tunnelStep, 0.1, false, false, {}}, &Tunnels::step, 1,
            tr("Cells between lattice points.")},
        {tr("bore"), "bore", {acre::limits::bore, 0.05, false, false, {}}, &Tunnels::bore, 1,
            tr("Radius of the passages.")},
        {tr("varies"), "boreVary", {{0, 90}, 0.5, false, false, tr("%")}, &Tunnels::boreVary, 100,
            tr("How much the radius varies along the way.")},
        {tr("rough"), "rough", {{0, 90}, 0.5, false, false, tr("%")}, &Tunnels::rough, 100,
            tr("How far the walls stray from round.")},
        {tr("flooded"), "flooded", share, &Tunnels::flooded, 100,
            tr("Of the height of a system that stands under water.")}};
    numbers.insert(numbers.end(), more.begin(), more.end());
  }
  addNumbers<Tunnels>(column, kList, part.id, numbers);
  if (blocks) {
    const std::string id = part.id;
    auto* row = new QHBoxLayout;
    row->addWidget(caption(tr("points to each side")));
    row->addWidget(whole<Tunnels>(kList, id, "side", tr("Lattice points to each side"),
        acre::limits::tunnelSide, &Tunnels::side,
        tr("With the step they say how far a system reaches.")));
    row->addWidget(caption(tr("up, down")));
    row->addWidget(whole<Tunnels>(kList, id, "up", tr("Lattice points up and down"),
        acre::limits::tunnelUp, &Tunnels::up, tr("Lattice points above and below the site.")));
    row->addStretch(1);
    column->addLayout(row);
    auto* water = new QHBoxLayout;
    water->addWidget(caption(tr("water")));
    water->addWidget(
        materialChoice(QStringLiteral("caves.%1.water").arg(QString::fromStdString(id)),
            tr("Water of tunnels"), part.water, {{tr("none"), std::string()}},
            [id](Recipe& r, const std::string& m) {
              if (auto* t = withId(r.caves->tunnels, id)) t->water = m;
            }),
        1);
    column->addLayout(water);
  }
  column->addWidget(foundLabel(part.id));
}

void CavesEditor::addVoid(QVBoxLayout* column, const NoiseVoid& part) {
  constexpr List<NoiseVoid> kList = &acre::Caves::voids;
  addHead<NoiseVoid>(column, kList, part, tr("Noise voids"));
  const std::string id = part.id;
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(6);
  grid->setVerticalSpacing(4);
  const auto band = [&](int row, const QString& name, const QString& key, auto of) {
    const auto number = [&](int at, const QString& label, const char* what, const NumberSpec& spec,
                            auto value, const QString& tip) {
      auto* text = caption(label);
      text->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
      grid->addWidget(text, row, at);
      auto* field = bindNumber(spec, key + QLatin1String(what), tr("%1 of caves").arg(label),
          {[id, of, value](const Recipe& r) -> std::optional<double> {
             const auto* v = withId(r.caves->voids, id);
             acre::NoiseBand* b = v ? of(const_cast<NoiseVoid&>(*v)) : nullptr;
             return b ? std::optional(*value(*b)) : std::nullopt;
           },
              [id, of, value](Recipe& r, double shown) {
                auto* v = withId(r.caves->voids, id);
                if (acre::NoiseBand* b = v ? of(*v) : nullptr) *value(*b) = shown;
              }},
          tip);
      field->setFixedWidth(kNumberWidth);
      grid->addWidget(field, row, at + 1);
    };
    number(
        0, name, ".width", {acre::limits::width, 1, true, false, {}},
        [](acre::NoiseBand& b) { return &b.noise.width; }, tr("Feature width of the noise."));
    number(
        2, tr("from"), ".low", {acre::limits::noiseBand, 0.005, false, false, {}},
        [](acre::NoiseBand& b) { return &b.low; },
        tr("Open where the noise is at least so much, narrowed by the curve of depth."));
    number(
        4, tr("to"), ".high", {acre::limits::noiseBand, 0.005, false, false, {}},
        [](acre::NoiseBand& b) { return &b.high; }, tr("Open below this value."));
  };
  const QString key = QStringLiteral("caves.") + QString::fromStdString(id);
  band(0, tr("noise, width"), key, [](NoiseVoid& v) { return &v.first; });
  if (part.second)
    band(1, tr("and, width"), key + QStringLiteral(".second"),
        [](NoiseVoid& v) { return v.second ? &*v.second : nullptr; });
  for (int c = 0; c < 3; ++c) grid->setColumnStretch(2 * c, 1);
  column->addLayout(grid);
  auto* row = new QHBoxLayout;
  auto* second = new Tick(tr("a second noise too"));
  second->setObjectName(key + QStringLiteral(".two"));
  second->setChecked(part.second.has_value());
  second->setToolTip(tr("Two thin bands that cross make winding tubes; one alone makes sheets."));
  connect(second, &Tick::toggled, this, [this, id](bool state) {
    edit<NoiseVoid>(tr("Second noise of voids"), &acre::Caves::voids, id,
        [state](NoiseVoid& v) { v.second = state ? std::optional(v.first) : std::nullopt; });
  });
  row->addWidget(second);
  auto* sea = new Tick(tr("may open the sea bed"));
  sea->setObjectName(key + QStringLiteral(".underSea"));
  sea->setChecked(part.underSea);
  connect(sea, &Tick::toggled, this, [this, id](bool state) {
    edit<NoiseVoid>(tr("Voids under the sea"), &acre::Caves::voids, id,
        [state](NoiseVoid& v) { v.underSea = state; });
  });
  row->addWidget(sea);
  row->addStretch(1);
  column->addLayout(row);
  if (part.curve.size() >= 2) {
    auto* depth = new QHBoxLayout;
    depth->setSpacing(6);
    const auto end = [&](const QString& label, const char* what, bool last, const QString& tip) {
      depth->addWidget(caption(label));
      auto* field = bindNumber({{0, 1e6}, 0.5, false, false, {}}, key + QLatin1String(what),
          tr("%1 of caves").arg(label),
          {[id, last](const Recipe& r) -> std::optional<double> {
             const auto* v = withId(r.caves->voids, id);
             if (!v || v->curve.empty()) return {};
             return last ? v->curve.back().x : v->curve.front().x;
           },
              [id, last](Recipe& r, double x) {
                auto* v = withId(r.caves->voids, id);
                if (v && !v->curve.empty()) (last ? v->curve.back() : v->curve.front()).x = x;
              }},
          tip);
      field->setFixedWidth(kNumberWidth);
      depth->addWidget(field);
    };
    end(tr("depth: narrow above"), ".shallow", false,
        tr("Cells below the surface where the curve of depth begins; above, the bands are as "
           "there."));
    end(tr("full from"), ".deep", true, tr("Cells below the surface from where on they stay."));
    depth->addStretch(1);
    column->addLayout(depth);
  }
  column->addWidget(foundLabel(id));
}

void CavesEditor::addAutomaton(QVBoxLayout* column, const AutomatonLayer& part) {
  constexpr List<AutomatonLayer> kList = &acre::Caves::automata;
  addHead<AutomatonLayer>(
      column, kList, part, part.volume ? tr("Automaton, a volume") : tr("Automaton, floors"));
  const std::string id = part.id;
  const QString key = QStringLiteral("caves.") + QString::fromStdString(id);
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  row->addWidget(caption(tr("rule")));
  auto* rule = new QLineEdit(QString::fromStdString(part.rule));
  rule->setObjectName(key + QStringLiteral(".rule"));
  rule->setAccessibleName(tr("Rule of an automaton"));
  rule->setToolTip(part.volume
                       ? tr("Birth and survival by solid neighbours of 26: counts and ranges, as "
                            "B14-26/S13-26 or B>13/S>12.")
                       : tr("Birth and survival by solid neighbours of 8: a digit each, as "
                            "B5678/S45678."));
  connect(rule, &QLineEdit::editingFinished, this, [this, rule, id, volume = part.volume] {
    const std::string text = rule->text().trimmed().toStdString();
    const auto* now = withId(document_.recipe().caves->automata, id);
    if (!now || now->rule == text) return;
    const auto read = acre::readRule(
        text, volume ? acre::AutomatonRule::kVolume : acre::AutomatonRule::kPlane, "rule");
    if (!read) {
      rule->setText(QString::fromStdString(now->rule));
      return emit refused(QString::fromStdString(read.error().text()));
    }
    edit<AutomatonLayer>(tr("Rule of an automaton"), &acre::Caves::automata, id,
        [&](AutomatonLayer& a) { a.rule = text; });
  });
  row->addWidget(rule, 1);
  row->addWidget(caption(tr("steps")));
  row->addWidget(whole<AutomatonLayer>(kList, id, "steps", tr("Steps of an automaton"),
      acre::limits::automatonSteps, &AutomatonLayer::steps,
      tr("Each reads cells one farther away.")));
  column->addLayout(row);
  std::vector<NumberOf<AutomatonLayer>> numbers = {
      {tr("filled"), "fill", {{0, 100}, 0.25, false, false, tr("%")}, &AutomatonLayer::fill, 100,
          tr("Chance of each cell to be solid before the first step.")},
      {tr("cover"), "cover", {acre::limits::automatonCover, 0.5, false, false, {}},
          &AutomatonLayer::cover, 1, tr("Cells of ground that stay above it.")}};
  if (part.volume) {
    numbers.push_back({tr("from y"), "bottom", {acre::limits::altitude, 1, false, true, {}},
        &AutomatonLayer::bottom, 1, tr("Lowest level.")});
    numbers.push_back({tr("below y"), "top", {acre::limits::altitude, 1, false, true, {}},
        &AutomatonLayer::top, 1, tr("The level above the highest.")});
  }
  addNumbers<AutomatonLayer>(column, kList, id, numbers);
  auto* last = new QHBoxLayout;
  last->setSpacing(6);
  if (part.volume) {
    last->addWidget(caption(tr("above and below lies")));
    auto* edge = new Choice;
    edge->setObjectName(key + QStringLiteral(".edge"));
    edge->addItems({tr("solid rock"), tr("nothing"), tr("edge cells stay")});
    edge->setCurrentIndex(static_cast<int>(part.edge));
    connect(edge, &Choice::activated, this, [this, id](int index) {
      edit<AutomatonLayer>(tr("Edge of an automaton"), &acre::Caves::automata, id,
          [index](AutomatonLayer& a) { a.edge = static_cast<AutomatonLayer::Edge>(index); });
    });
    last->addWidget(edge);
  } else {
    last->addWidget(caption(tr("floors at y")));
    auto* floors = new QLineEdit(floorsText(part.floors));
    floors->setObjectName(key + QStringLiteral(".floors"));
    floors->setAccessibleName(tr("Floors of an automaton"));
    floors->setToolTip(tr("Levels of the floors' lowest cells, parted by commas."));
    connect(floors, &QLineEdit::editingFinished, this, [this, floors, id] {
      const auto* now = withId(document_.recipe().caves->automata, id);
      if (!now || floors->text() == floorsText(now->floors)) return;
      std::vector<double> levels;
      for (const QString& text : floors->text().split(QLatin1Char(','), Qt::SkipEmptyParts)) {
        bool ok = false;
        const int y = text.trimmed().replace(QChar(0x2212), QLatin1Char('-')).toInt(&ok);
        if (!ok) {
          floors->setText(floorsText(now->floors));
          return emit refused(
              tr("“%1” is no level; accepted: whole numbers parted by commas").arg(text.trimmed()));
        }
        levels.push_back(y);
      }
      edit<AutomatonLayer>(tr("Floors of an automaton"), &acre::Caves::automata, id,
          [&](AutomatonLayer& a) { a.floors = levels; });
    });
    last->addWidget(floors, 1);
    last->addWidget(caption(tr("high")));
    last->addWidget(whole<AutomatonLayer>(kList, id, "tall", tr("Height of floors"),
        acre::limits::automatonTall, &AutomatonLayer::tall, tr("Cells from floor to ceiling.")));
  }
  last->addStretch(part.volume ? 1 : 0);
  column->addLayout(last);
  column->addWidget(foundLabel(id));
}

void CavesEditor::addKind(QVBoxLayout* column, const CaveKind& kind) {
  const std::string id = kind.id;
  const QString key = QStringLiteral("caves.kind.") + QString::fromStdString(id);
  auto* head = new QHBoxLayout;
  head->setSpacing(5);
  auto* name = new QLineEdit(QString::fromStdString(kind.name));
  name->setObjectName(key + QStringLiteral(".name"));
  name->setAccessibleName(tr("Name of a cave kind"));
  connect(name, &QLineEdit::editingFinished, this, [this, name, id] {
    const auto* now = withId(document_.recipe().caves->kinds, id);
    const std::string text = name->text().toStdString();
    if (now && now->name != text)
      edit<CaveKind>(
          tr("Name of a cave kind"), &acre::Caves::kinds, id, [&](CaveKind& k) { k.name = text; });
  });
  head->addWidget(name, 1);
  const auto bound = [&](const QString& label, const char* what,
                         std::optional<double> CaveKind::*at, double usual, const QString& tip) {
    if (!(kind.*at)) return;
    head->addWidget(caption(label));
    auto* field = bindNumber({acre::limits::altitude, 0.5, false, false, {}},
        key + QLatin1String(what), tr("%1 of a cave kind").arg(label),
        {[id, at, usual](const Recipe& r) -> std::optional<double> {
           const auto* k = withId(r.caves->kinds, id);
           return k ? std::optional((k->*at).value_or(usual)) : std::nullopt;
         },
            [id, at](Recipe& r, double v) {
              if (auto* k = withId(r.caves->kinds, id)) k->*at = v;
            }},
        tip);
    field->setFixedWidth(kNumberWidth);
    head->addWidget(field);
  };
  bound(tr("from"), ".from", &CaveKind::from, 0, tr("Depth in cells where it begins."));
  bound(tr("to"), ".to", &CaveKind::to, 0, tr("Depth in cells where it ends."));
  bound(tr("wet from"), ".wetFrom", &CaveKind::wetFrom, 0, tr("Moisture where it begins."));
  bound(tr("wet to"), ".wetTo", &CaveKind::wetTo, 0, tr("Moisture where it ends."));
  head->addWidget(deleteButton(key + QStringLiteral(".delete"), tr("Delete cave kind"),
      [id](Recipe& r) { std::erase_if(r.caves->kinds, [&](auto& k) { return k.id == id; }); }));
  column->addLayout(head);
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  row->addSpacing(22);
  const std::vector<std::pair<QString, std::string>> none = {{tr("as it is"), std::string()}};
  row->addWidget(caption(tr("floor")));
  row->addWidget(
      materialChoice(key + QStringLiteral(".floor"), tr("Floor of a cave kind"), kind.floor, none,
          [id](Recipe& r, const std::string& m) {
            if (auto* k = withId(r.caves->kinds, id)) k->floor = m;
          }),
      1);
  row->addWidget(caption(tr("walls")));
  row->addWidget(
      materialChoice(key + QStringLiteral(".wall"), tr("Walls of a cave kind"), kind.wall, none,
          [id](Recipe& r, const std::string& m) {
            if (auto* k = withId(r.caves->kinds, id)) k->wall = m;
          }),
      1);
  column->addLayout(row);
}

void CavesEditor::addButtons(QVBoxLayout* column) {
  column->addSpacing(4);
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  const auto ids = [](const Recipe& r) {
    std::vector<std::string> out = idsOf(r.caves->tunnels);
    for (const auto& list :
        {idsOf(r.caves->voids), idsOf(r.caves->automata), idsOf(r.caves->kinds)})
      out.insert(out.end(), list.begin(), list.end());
    return out;
  };
  const auto button = [&](const QString& text, const char* name, const QString& tip,
                          std::function<void(Recipe&)> change) {
    auto* add = new QPushButton(text);
    add->setObjectName(QLatin1String(name));
    add->setToolTip(tip);
    connect(add, &QPushButton::clicked, this, [this, tip, change = std::move(change)] {
      apply(tip.section(QLatin1Char('.'), 0, 0), change);
    });
    row->addWidget(add);
  };
  button(tr("+ Tunnels"), "caves.addTunnels", tr("Add tunnel systems. Passages between points."),
      [ids](Recipe& r) {
        Tunnels t;
        t.id = acre::freshId("tunnels", ids(r));
        if (!r.frame.blocks() && r.caves->opening.empty() && !r.materials.empty())
          r.caves->opening = r.materials.front().id;
        r.caves->tunnels.push_back(t);
      });
  if (document_.recipe().frame.blocks()) {
    button(tr("+ Voids"), "caves.addVoids", tr("Add noise voids. Open where a noise says so."),
        [ids](Recipe& r) {
          NoiseVoid v;
          v.id = acre::freshId("voids", ids(r));
          v.second = v.first;
          v.curve = {{4, 0}, {24, 1}};
          r.caves->voids.push_back(v);
        });
    button(tr("+ Floors"), "caves.addFloors",
        tr("Add floors of an automaton. Level rooms at chosen heights."), [ids](Recipe& r) {
          AutomatonLayer a;
          a.id = acre::freshId("floors", ids(r));
          a.fill = 0.55;
          a.floors = {std::floor(
              static_cast<double>(r.frame.y.min) + static_cast<double>(r.frame.y.extent) / 4)};
          r.caves->automata.push_back(a);
        });
    button(tr("+ Volume"), "caves.addVolume",
        tr("Add a volume of an automaton. Caverns between two heights."), [ids](Recipe& r) {
          AutomatonLayer a;
          a.id = acre::freshId("volume", ids(r));
          a.volume = true;
          a.rule = "B14-26/S13-26";
          a.fill = 0.5;
          a.bottom = static_cast<double>(r.frame.y.min);
          a.top = std::floor(a.bottom + static_cast<double>(r.frame.y.extent) / 4) + 1;
          r.caves->automata.push_back(a);
        });
  }
  row->addStretch(1);
  column->addLayout(row);
}

void CavesEditor::showPointer(const std::string& pointer) {
  // "/caves/LIST/INDEX/KEY".
  const QStringList parts = QString::fromStdString(pointer).split(QLatin1Char('/'));
  if (parts.size() < 4) {
    if (auto* field = findChild<QWidget*>(QStringLiteral("caves.seaCover"))) field->setFocus();
    return;
  }
  const acre::Caves& caves = *document_.recipe().caves;
  const auto index = static_cast<size_t>(parts[3].toUInt());
  const auto idIn = [&](const auto& list) {
    return index < list.size() ? QString::fromStdString(list[index].id) : QString();
  };
  const QString list = parts[2];
  QString name =
      list == QLatin1String("kinds")
          ? QStringLiteral("caves.kind.") + idIn(caves.kinds)
          : QStringLiteral("caves.") + (list == QLatin1String("tunnels")    ? idIn(caves.tunnels)
                                           : list == QLatin1String("voids") ? idIn(caves.voids)
                                                                            : idIn(caves.automata));
  const QString key = parts.size() > 4 ? parts[4] : QString();
  for (const QString& end :
      {QLatin1Char('.') + key, QStringLiteral(".on"), QStringLiteral(".name")})
    if (auto* field = findChild<QWidget*>(name + end)) return field->setFocus();
}

}  // namespace app
