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

QString keyOf(const std::string& id) {
  return QStringLiteral("caves.") + QString::fromStdString(id);
}

constexpr int kAcross = 2;  // Numbers a row.

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
      const Place<acre::Caves> all = [](Recipe& r) { return &*r.caves; };
      row->addWidget(bindNumber(QStringLiteral("caves"), tr("the caves"),
          declared<acre::Caves>(caves, all, &acre::Caves::seaCover)));
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
  const QString key = keyOf(id);
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
auto CavesEditor::placeOf(List<T> list, const std::string& id) -> Place<T> {
  return [list, id](Recipe& r) { return withId((*r.caves).*list, id); };
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
  const bool blocks = document_.recipe().frame.blocks();
  addHead<Tunnels>(column, kList, part, tr("Tunnel systems"));
  const std::string id = part.id;
  const Place<Tunnels> place = placeOf<Tunnels>(kList, id);
  const auto number = [&](auto member) { return declared<Tunnels>(part, place, member); };
  std::vector<Number> numbers;
  for (const auto member : {&Tunnels::spacing, &Tunnels::share, &Tunnels::mouths, &Tunnels::mouth})
    numbers.push_back(number(member));
  if (blocks) {
    for (const auto member : {&Tunnels::depth, &Tunnels::depthVary, &Tunnels::length, &Tunnels::arm,
             &Tunnels::apart, &Tunnels::gap, &Tunnels::noise, &Tunnels::shift, &Tunnels::step,
             &Tunnels::bore, &Tunnels::boreVary, &Tunnels::rough, &Tunnels::flooded})
      numbers.push_back(number(member));
    for (const auto member : {&Tunnels::side, &Tunnels::up}) numbers.push_back(number(member));
  }
  addNumbers(column, keyOf(id), tr("tunnel systems"), numbers, kAcross);
  if (blocks) {
    auto* water = new QHBoxLayout;
    water->addWidget(caption(tr("water")));
    water->addWidget(materialChoice(keyOf(id) + QStringLiteral(".water"), tr("Water of tunnels"),
                         part.water, {{tr("none"), std::string()}},
                         [place](Recipe& r, const std::string& m) {
                           if (Tunnels* t = place(r)) t->water = m;
                         }),
        1);
    column->addLayout(water);
  }
  column->addWidget(foundLabel(id));
}

void CavesEditor::addVoid(QVBoxLayout* column, const NoiseVoid& part) {
  constexpr List<NoiseVoid> kList = &acre::Caves::voids;
  addHead<NoiseVoid>(column, kList, part, tr("Noise voids"));
  const std::string id = part.id;
  std::vector<Number> numbers;
  const auto band = [&](const QString& prefix, const acre::NoiseBand& now, auto of) {
    const Place<acre::NoiseBand> place = [id, of](Recipe& r) -> acre::NoiseBand* {
      auto* v = withId(r.caves->voids, id);
      return v ? of(*v) : nullptr;
    };
    const Place<acre::NoiseSource> noise = [place](Recipe& r) {
      acre::NoiseBand* b = place(r);
      return b ? &b->noise : nullptr;
    };
    const size_t from = numbers.size();
    numbers.push_back(
        declared<acre::NoiseSource>(now.noise, noise, &acre::NoiseSource::width, tr("width")));
    for (const auto member : {&acre::NoiseBand::low, &acre::NoiseBand::high})
      numbers.push_back(declared<acre::NoiseBand>(now, place, member));
    for (size_t n = from; n < numbers.size(); ++n) numbers[n].key.prepend(prefix);
  };
  band({}, part.first, [](NoiseVoid& v) { return &v.first; });
  if (part.second)
    band(QStringLiteral("second."), *part.second,
        [](NoiseVoid& v) { return v.second ? &*v.second : nullptr; });
  const QString key = keyOf(id);
  addNumbers(column, key, tr("noise voids"), numbers, 3);
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
  const QString key = keyOf(id);
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
  const Place<AutomatonLayer> place = placeOf<AutomatonLayer>(kList, id);
  const auto number = [&](auto member) { return declared<AutomatonLayer>(part, place, member); };
  const auto field = [&](QHBoxLayout* into, const Number& what) {
    into->addWidget(caption(what.label));
    into->addWidget(bindNumber(key, tr("an automaton"), what));
  };
  field(row, number(&AutomatonLayer::steps));
  column->addLayout(row);
  std::vector<Number> numbers = {number(&AutomatonLayer::fill), number(&AutomatonLayer::cover)};
  if (part.volume)
    for (const auto member : {&AutomatonLayer::bottom, &AutomatonLayer::top})
      numbers.push_back(number(member));
  addNumbers(column, key, tr("an automaton"), numbers, kAcross);
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
    field(last, number(&AutomatonLayer::tall));
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
  const Place<CaveKind> place = placeOf<CaveKind>(&acre::Caves::kinds, id);
  for (const auto member : {&CaveKind::from, &CaveKind::to, &CaveKind::wetFrom, &CaveKind::wetTo}) {
    if (!(kind.*member)) continue;
    const Number number = declared<CaveKind>(kind, place, member);
    head->addWidget(caption(number.label));
    head->addWidget(bindNumber(key, tr("a cave kind"), number));
  }
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
