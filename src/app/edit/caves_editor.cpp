#include "app/edit/caves_editor.h"

#include <algorithm>
#include <cmath>

#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/look/look.h"
#include "recipe/automaton_rule.h"
#include "recipe/cave_recipe.h"
#include "recipe/object_recipe.h"

namespace app {
namespace {

using acre::AutomatonLayer;
using acre::CaveKind;
using acre::NoiseVoid;
using acre::Recipe;
using acre::Tunnels;

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
  const Recipe& r = document_.recipe();
  const std::string shape = shapeOf(*r.caves) + namesOf(r.materials) +
                            (r.frame.blocks() ? "blocks" : "tiles") + (r.climate.on ? "c" : "");
  if (shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshControls();
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
    const auto all = form<acre::Caves>(
        caves, [](Recipe& r) { return &*r.caves; }, QStringLiteral("caves"), tr("the caves"));
    for (const Tunnels& part : caves.tunnels) addTunnels(column, part);
    for (const NoiseVoid& part : caves.voids) addVoid(column, part);
    for (const AutomatonLayer& part : caves.automata) addAutomaton(column, part);
    addButtons(column);
    if (recipe.frame.blocks()) {
      listSection(column, tr("Cave kinds, in order"), "/caves/kinds");
      for (const CaveKind& kind : caves.kinds) addKind(column, kind);
      const auto newKind = [](Recipe& r) {
        CaveKind kind;
        kind.id = acre::freshId("kind", idsOf(r.caves->kinds));
        kind.name = "Galleries";
        if (!r.materials.empty()) kind.floor = r.materials.back().id;
        r.caves->kinds.push_back(kind);
      };
      Row(column)
          .add(button(tr("Add cave kind"), QStringLiteral("caves.addKind"),
              tr("What floors and walls of caves are made of, by depth and moisture."), newKind))
          .rest()
          .words(tr("ground kept under the sea"))
          .add(all.number(&acre::Caves::seaCover));
    } else if (!caves.tunnels.empty()) {
      Row(column)
          .add(new QLabel(tr("Openings are cells of")))
          .add(all.material(&acre::Caves::opening, {{tr("none: not shown"), {}}}), 1);
    }
  }
  column->addStretch(1);
}

/// Switch, name and delete of a part; its form.
template <class T>
auto CavesEditor::addHead(QVBoxLayout* column, List<T> list, const T& part, const QString& what)
    -> Form<T> {
  if (column->count() > 0) {
    column->addSpacing(8);
    column->addWidget(ruleLine());
  }
  const std::string id = part.id;
  const auto made = form<T>(
      part, [list, id](Recipe& r) { return withId((*r.caves).*list, id); }, keyOf(id),
      what.left(1).toLower() + what.mid(1));
  Row(column)
      .add(made.onTick(&T::on))
      .add(heading(what))
      .add(caption(QString::fromStdString(id)), 1)
      .add(deleteButton(made.named("delete"), tr("Delete %1").arg(what), [list, id](Recipe& r) {
        std::erase_if((*r.caves).*list, [&](auto& p) { return p.id == id; });
      }));
  return made;
}

QLabel* CavesEditor::foundLabel(const std::string& id) {
  auto* label = caption({});
  label->setObjectName(QStringLiteral("caves.%1.found").arg(QString::fromStdString(id)));
  label->setWordWrap(true);
  found_[id] = label;
  return label;
}

void CavesEditor::addTunnels(QVBoxLayout* column, const Tunnels& part) {
  const auto made = addHead<Tunnels>(column, &acre::Caves::tunnels, part, tr("Tunnel systems"));
  if (document_.recipe().frame.blocks()) {
    made.numbers(column, kAcross, &Tunnels::spacing, &Tunnels::share, &Tunnels::mouths,
        &Tunnels::mouth, &Tunnels::depth, &Tunnels::depthVary, &Tunnels::length, &Tunnels::gap,
        &Tunnels::arms, &Tunnels::arm, &Tunnels::independent, &Tunnels::apart, &Tunnels::noise,
        &Tunnels::shift, &Tunnels::step, &Tunnels::bore, &Tunnels::boreVary, &Tunnels::rough,
        &Tunnels::side, &Tunnels::up, &Tunnels::flooded);
    // What passages do is seen from above, through the ground.
    made.eachNumber([&](const QString&, NumberField* field) {
      previews_->setPicturesOf(
          field, [id = part.id](const acre::World& low, const acre::World& high,
                     const MapGeometry& view) { return passagesOf(low, high, view, id); });
    });
    Row(column).words(tr("water")).add(made.material(&Tunnels::water, {{tr("none"), {}}}), 1);
  } else {
    made.numbers(
        column, kAcross, &Tunnels::spacing, &Tunnels::share, &Tunnels::mouths, &Tunnels::mouth);
  }
  column->addWidget(foundLabel(part.id));
}

void CavesEditor::addVoid(QVBoxLayout* column, const NoiseVoid& part) {
  const auto made = addHead<NoiseVoid>(column, &acre::Caves::voids, part, tr("Noise voids"));
  std::vector<Number> numbers;
  const auto band = [&](const QString& prefix, const acre::NoiseBand& now,
                        const std::function<acre::NoiseBand*(NoiseVoid&)>& of) {
    const Place<acre::NoiseBand> place = made.template within<acre::NoiseBand>(now, of).place();
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
  addNumbers(column, made.key(), tr("noise voids"), numbers, 3);
  Row(column)
      .add(made.tick(
          "two", tr("a second noise too"), tr("Second noise of voids"),
          tr("Two thin bands that cross make winding tubes; one alone makes sheets."),
          [](const NoiseVoid& v) { return v.second.has_value(); },
          [](NoiseVoid& v, bool on) { v.second = on ? std::optional(v.first) : std::nullopt; }))
      .add(made.tick(&NoiseVoid::underSea, tr("may open the sea bed")))
      .rest();
  if (part.curve.size() >= 2) {
    const auto end = [&](const char* key, bool last, const QString& step, const QString& tip) {
      return made.number(
          key, step, {{0, 1e6}, 0.5, false, false, {}}, tip,
          [last](const NoiseVoid& v) -> std::optional<double> {
            if (v.curve.empty()) return {};
            return last ? v.curve.back().x : v.curve.front().x;
          },
          [last](NoiseVoid& v, double x) {
            if (!v.curve.empty()) (last ? v.curve.back() : v.curve.front()).x = x;
          });
    };
    Row(column, 6)
        .words(tr("depth: narrow above"))
        .add(end("shallow", false, tr("Depth of caves: narrow above"),
                 tr("Cells below the surface where the curve of depth begins; above, the bands are "
                    "as there.")),
            kNumberWidth)
        .words(tr("full from"))
        .add(end("deep", true, tr("Depth of caves: full from"),
                 tr("Cells below the surface from where on they stay.")),
            kNumberWidth)
        .rest();
  }
  column->addWidget(foundLabel(part.id));
}

namespace {

/// Why a rule cannot be taken; empty: it can.
QString ruleFault(const std::string& text, int neighbours) {
  const auto read = acre::readRule(text, neighbours, "rule");
  return read ? QString() : QString::fromStdString(read.error().text());
}

/// "−30, −41": whole numbers parted by commas; nothing when one is none, which is named.
std::optional<std::vector<double>> floorsOf(const std::string& text, QString* wrong) {
  std::vector<double> out;
  for (const QString& each :
      QString::fromStdString(text).split(QLatin1Char(','), Qt::SkipEmptyParts)) {
    bool ok = false;
    out.push_back(each.trimmed().replace(QChar(0x2212), QLatin1Char('-')).toInt(&ok));
    if (ok) continue;
    if (wrong) *wrong = each.trimmed();
    return {};
  }
  return out;
}

}  // namespace

void CavesEditor::addAutomaton(QVBoxLayout* column, const AutomatonLayer& part) {
  const auto made = addHead<AutomatonLayer>(column, &acre::Caves::automata, part,
      part.volume ? tr("Automaton, a volume") : tr("Automaton, floors"));
  const int neighbours = part.volume ? acre::AutomatonRule::kVolume : acre::AutomatonRule::kPlane;
  Row first(column);
  first.words(tr("rule"))
      .add(made.text(&AutomatonLayer::rule,
               [neighbours](const std::string& v) { return ruleFault(v, neighbours); }),
          1);
  made.number(first, &AutomatonLayer::steps);
  if (part.volume)
    made.numbers(column, kAcross, &AutomatonLayer::fill, &AutomatonLayer::cover,
        &AutomatonLayer::bottom, &AutomatonLayer::top);
  else
    made.numbers(column, kAcross, &AutomatonLayer::fill, &AutomatonLayer::cover);
  Row last(column);
  if (part.volume) {
    last.words(tr("above and below lies"))
        .add(made.choice(
            &AutomatonLayer::edge, {tr("solid rock"), tr("nothing"), tr("edge cells stay")}))
        .rest();
  } else {
    const auto check = [](const std::string& v) {
      QString wrong;
      return floorsOf(v, &wrong)
                 ? QString()
                 : tr("“%1” is no level; accepted: whole numbers parted by commas").arg(wrong);
    };
    last.words(tr("floors at y"))
        .add(bindText(
                 made.named("floors"), tr("Floors of an automaton"),
                 tr("Levels of the floors' lowest cells, parted by commas."),
                 [place = made.place()](const Recipe& r) -> std::optional<std::string> {
                   const auto* now = place(const_cast<Recipe&>(r));  // Only looked at.
                   return now ? std::optional(floorsText(now->floors).toStdString()) : std::nullopt;
                 },
                 [place = made.place()](Recipe& r, const std::string& v) {
                   if (auto* now = place(r)) now->floors = *floorsOf(v, nullptr);
                 },
                 check),
            1);
    made.number(last, &AutomatonLayer::tall);
  }
  column->addWidget(foundLabel(part.id));
}

void CavesEditor::addKind(QVBoxLayout* column, const CaveKind& kind) {
  const std::string id = kind.id;
  const auto made = form<CaveKind>(
      kind, [id](Recipe& r) { return withId(r.caves->kinds, id); },
      QStringLiteral("caves.kind.") + QString::fromStdString(id), tr("a cave kind"));
  Row head(column);
  head.add(made.text(&CaveKind::name), 1);
  for (const auto member : {&CaveKind::from, &CaveKind::to, &CaveKind::wetFrom, &CaveKind::wetTo})
    if (kind.*member) made.number(head, member);
  head.add(deleteButton(made.named("delete"), tr("Delete cave kind"), [id](Recipe& r) {
    std::erase_if(r.caves->kinds, [&](auto& k) { return k.id == id; });
    for (acre::ObjectKind& of : r.objects->kinds) std::erase(of.caves, id);
  }));
  const Offered none = {{tr("as it is"), {}}};
  Row(column)
      .space(22)
      .words(tr("floor"))
      .add(made.material(&CaveKind::floor, none), 1)
      .words(tr("walls"))
      .add(made.material(&CaveKind::wall, none), 1);
}

void CavesEditor::addButtons(QVBoxLayout* column) {
  column->addSpacing(4);
  Row row(column);
  const auto ids = [](const Recipe& r) {
    std::vector<std::string> out = idsOf(r.caves->tunnels);
    for (const auto& list :
        {idsOf(r.caves->voids), idsOf(r.caves->automata), idsOf(r.caves->kinds)})
      out.insert(out.end(), list.begin(), list.end());
    return out;
  };
  const auto add = [&](const QString& text, const char* name, const QString& tip,
                       std::function<void(Recipe&)> change) {
    row.add(button(
        text, QLatin1String(name), tip, std::move(change), tip.section(QLatin1Char('.'), 0, 0)));
  };
  add(tr("+ Tunnels"), "caves.addTunnels", tr("Add tunnel systems. Passages between points."),
      [ids](Recipe& r) {
        Tunnels t;
        t.id = acre::freshId("tunnels", ids(r));
        if (!r.frame.blocks() && r.caves->opening.empty() && !r.materials.empty())
          r.caves->opening = r.materials.front().id;
        r.caves->tunnels.push_back(t);
      });
  if (document_.recipe().frame.blocks()) {
    add(tr("+ Voids"), "caves.addVoids", tr("Add noise voids. Open where a noise says so."),
        [ids](Recipe& r) {
          NoiseVoid v;
          v.id = acre::freshId("voids", ids(r));
          v.second = v.first;
          v.curve = {{4, 0}, {24, 1}};
          r.caves->voids.push_back(v);
        });
    add(tr("+ Floors"), "caves.addFloors",
        tr("Add floors of an automaton. Level rooms at chosen heights."), [ids](Recipe& r) {
          AutomatonLayer a;
          a.id = acre::freshId("floors", ids(r));
          a.fill = 0.55;
          a.floors = {std::floor(
              static_cast<double>(r.frame.y.min) + static_cast<double>(r.frame.y.extent) / 4)};
          r.caves->automata.push_back(a);
        });
    add(tr("+ Volume"), "caves.addVolume",
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
  row.rest();
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

#include "moc_caves_editor.cpp"
