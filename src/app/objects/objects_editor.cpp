#include "app/objects/objects_editor.h"

#include <algorithm>

#include "app/edit/curve_view.h"
#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/edit/swatch.h"
#include "app/look/look.h"
#include "recipe/cave_recipe.h"
#include "recipe/level_recipe.h"
#include "recipe/stages.h"
#include "world/world.h"

namespace app {
namespace {

using acre::ObjectKind;
using acre::Recipe;

constexpr int kSpanWords = 76;

QString keyOf(const std::string& id) {
  return QStringLiteral("objects.") + QString::fromStdString(id);
}

ObjectKind* kindIn(Recipe& r, const std::string& id) {
  return withId(r.objects->kinds, id);
}

/// Stands for more than one of a list where one is chosen; no id.
const std::string& several() {
  static const std::string kSeveral = "*";
  return kSeveral;
}

/// What a control shows of a list of which it chooses one or none.
template <class T>
std::optional<std::string> oneOf(const T* of, std::vector<std::string> T::*list) {
  if (!of) return {};
  if ((of->*list).empty()) return std::string();
  return (of->*list).size() > 1 ? several() : (of->*list)[0];
}

template <class T>
void setOne(T* of, std::vector<std::string> T::*list, const std::string& id) {
  if (!of || id == several()) return;
  (of->*list).clear();
  if (!id.empty()) (of->*list).push_back(id);
}

}  // namespace

ObjectsEditor::ObjectsEditor(Document& document, QWidget* parent)
    : Editor(document, parent),
      inView_(this, document,
          {acre::objectsPart, [](const acre::World& world) { return world.objects().any(); },
              acre::objectFigures,
              [this](bool fresh) {
                showFigures();
                if (fresh) emit figuresChanged();
              }}) {
  followView(inView_);
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  refresh();
}

std::vector<acre::ObjectFigures> ObjectsEditor::found() const {
  return inView_.found().value_or(std::vector<acre::ObjectFigures>());
}

void ObjectsEditor::refresh() {
  const Recipe& r = document_.recipe();
  acre::Objects shown = *r.objects;  // What is drawn of a piece asks for no other controls.
  for (acre::ObjectPiece& piece : shown.pieces) {
    piece.layers.clear();
    piece.signs.clear();
  }
  std::string shape = shapeOf(shown) + namesOf(r.materials) + namesOf(r.objects->kinds) +
                      namesOf(r.objects->pieces) + namesOf(r.objects->trees) +
                      namesOf(r.biomes.list);
  for (const acre::FieldRecipe* field : fieldsOf(r)) shape += field->id + field->name;
  if (shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshControls();
  if (isVisible()) inView_.refresh();
}

// ---- what became of them -----------------------------------------------------------------------

QString ObjectsEditor::figures() const {
  const auto found = this->found();
  if (found.empty()) return {};
  uint64_t sum = 0;
  for (const acre::ObjectFigures& one : found) sum += one.count;
  return tr("%1 in view").arg(look::wholeNumber(static_cast<qint64>(sum)));
}

void ObjectsEditor::showFigures() {
  const auto found = this->found();
  const auto& kinds = document_.recipe().objects->kinds;
  for (const auto& [id, shown] : found_) {
    const auto one = std::find_if(found.begin(), found.end(),
        [&, &id = id](const auto& f) { return f.kind < kinds.size() && kinds[f.kind].id == id; });
    shown.label->setEnabled(!inView_.measuring());
    if (one == found.end()) {
      shown.label->setText(inView_.measuring() ? tr("Counting the view…") : QString());
      shown.bars->hide();
      continue;
    }
    shown.label->setText(foundText(*one));
    const acre::Colour& ink = kinds[one->kind].ink;
    shown.bars->setFigures(*one, QColor(ink.red, ink.green, ink.blue));
  }
}

QString ObjectsEditor::foundText(const acre::ObjectFigures& one) const {
  const auto whole = [](uint64_t n) { return look::wholeNumber(static_cast<qint64>(n)); };
  if (one.squares == 0)
    return tr("%1 in view: %2 of 1,000 cells, %3 asked; at most %4 fit.")
        .arg(whole(one.count), look::number(std::round(one.placed * 100) / 100),
            look::number(std::round(one.asked * 100) / 100),
            look::number(std::round(one.most * 10) / 10));
  QString text = tr("%1 in view; %2 of %3 squares about it have one.")
                     .arg(whole(one.count), whole(one.squares - one.missing), whole(one.squares));
  if (one.forced > 0) text += tr(" %1 of them by force.").arg(whole(one.forced));
  return text;
}

// ---- controls ----------------------------------------------------------------------------------

void ObjectsEditor::rebuild() {
  found_.clear();
  QVBoxLayout* column = newBody(column_, 1);
  const acre::Objects& objects = *document_.recipe().objects;
  if (!objects.on) {
    addSwitch(column, tr("The objects are switched off."), QStringLiteral("objects.switch"),
        [this] { emit switchRequested(); });
    return column->addStretch(1);
  }
  if (objects.kinds.empty()) {
    auto* none = new QLabel(
        tr("Nothing stands here yet. A kind of object says how many of 1,000 cells, how far apart, "
           "and on what ground: the same places in whatever parts the world is loaded."));
    none->setWordWrap(true);
    column->addWidget(none);
  }
  for (const ObjectKind& kind : objects.kinds) addKind(column, kind);
  column->addSpacing(4);
  Row(column)
      .add(button(
          tr("+ Kind"), QStringLiteral("objects.addKind"),
          tr("Adds a kind of object; earlier kinds have their places first."),
          [](Recipe& r) {
            constexpr acre::Colour kInks[] = {{92, 84, 74}, {62, 96, 58}, {132, 86, 44},
                {120, 60, 70}, {70, 84, 120}, {150, 120, 40}};
            ObjectKind kind;
            kind.id = acre::freshId("kind", idsOf(r.objects->kinds));
            const size_t n = r.objects->kinds.size();
            kind.name = "Kind " + std::to_string(n + 1);
            kind.sign = static_cast<acre::ObjectSign>(n % 6);
            kind.ink = kInks[n % std::size(kInks)];
            r.objects->kinds.push_back(kind);
          },
          tr("Add kind of object")))
      .rest();
  addPieces(column);
  addTrees(column);
  column->addStretch(1);
  showFigures();
}

void ObjectsEditor::moveKind(const std::string& id, int by, const QString& step) {
  apply(step, [&](Recipe& r) {
    auto& list = r.objects->kinds;
    moveIn(list, id, by);
    // What one keeps from or stays by stands before it.
    for (auto kind = list.begin(); kind != list.end(); ++kind)
      for (auto* others : {&kind->apart, &kind->beside})
        std::erase_if(*others, [&](const acre::ObjectApart& from) {
          return std::none_of(
              list.begin(), kind, [&](const ObjectKind& other) { return other.id == from.kind; });
        });
  });
}

void ObjectsEditor::addKind(QVBoxLayout* column, const ObjectKind& kind) {
  const std::string id = kind.id;
  const auto made = form<ObjectKind>(
      kind, [id](Recipe& r) { return kindIn(r, id); }, keyOf(id), tr("a kind of object"));
  if (column->count() > 0) {
    column->addSpacing(6);
    column->addWidget(ruleLine());
  }
  Row head(column);
  head.add(made.onTick(&ObjectKind::on))
      .add(made.text(&ObjectKind::name), 1)
      .add(bindColour(
          made.named("ink"), tr("Ink of a kind of object"),
          [id](const Recipe& r) -> const acre::Colour* {
            const ObjectKind* of = kindIn(const_cast<Recipe&>(r), id);  // Only looked at.
            return of ? &of->ink : nullptr;
          },
          [id](Recipe& r, const acre::Colour& ink) {
            if (ObjectKind* of = kindIn(r, id)) of->ink = ink;
          }))
      .add(made.choice(&ObjectKind::sign,
          {tr("dot"), tr("ring"), tr("cross"), tr("tuft"), tr("crown"), tr("stone")}));
  for (const auto& [text, name, tip, by] :
      {std::tuple("↑", "up", tr("Earlier"), -1), std::tuple("↓", "down", tr("Later"), 1)}) {
    auto* move = smallButton(QString::fromUtf8(text), made.named(name), tip);
    connect(move, &QToolButton::clicked, this,
        [this, id, by = by, tip = tip] { moveKind(id, by, tr("%1 among the kinds").arg(tip)); });
    head.add(move);
  }
  head.add(deleteButton(made.named("delete"), tr("Delete kind of object"), [id](Recipe& r) {
    std::erase_if(r.objects->kinds, [&](const ObjectKind& k) { return k.id == id; });
    for (ObjectKind& other : r.objects->kinds)
      for (auto* others : {&other.apart, &other.beside})
        std::erase_if(*others, [&](const acre::ObjectApart& from) { return from.kind == id; });
  }));
  addAmount(column, made, kind);
  addBiomes(column, kind);
  const Found found{caption({}, true), new ReasonBars};
  found.label->setObjectName(made.named("found"));
  found.bars->setObjectName(made.named("bars"));
  column->addWidget(found.label);
  column->addWidget(found.bars);
  found_[id] = found;
  addMade(column, made, kind);
  const bool caves = kind.stands != acre::ObjectStand::Ground;
  const bool level = document_.recipe().frame.kind == acre::WorldKind::Level;
  if (document_.recipe().frame.blocks() || caves) addStand(column, made, kind);
  if (level || caves) addSpan(column, made, kind, &ObjectKind::wall, tr("from a wall"));
  if (level) addNoise(column, made, kind);
  if (!level) {
    addSpan(column, made, kind, &ObjectKind::altitude, tr("altitude"));
    if (!caves) addSpan(column, made, kind, &ObjectKind::slope, tr("slope"));
    addSpan(column, made, kind, &ObjectKind::shore, tr("from water"));
    if (!document_.recipe().caves->tunnels.empty())
      addSpan(column, made, kind, &ObjectKind::mouth, tr("from a mouth"));
  }
  addGround(column, made, kind);
  addNeighbours(column, made, kind);
  addChoices(column, kind);
}

void ObjectsEditor::addStand(
    QVBoxLayout* column, const Form<ObjectKind>& made, const ObjectKind& kind) {
  Row row(column);
  row.words(tr("stands on"))
      .add(made.choice(&ObjectKind::stands,
               {tr("the ground"), tr("floors of caves"), tr("ceilings of caves, hanging")}),
          1);
  if (kind.stands == acre::ObjectStand::Ground) return;
  const std::string id = kind.id;
  Offered offered = {{tr("of any kind"), {}}};
  if (kind.caves.size() > 1)
    offered.emplace_back(tr("of %1 kinds of the file").arg(kind.caves.size()), several());
  for (const acre::CaveKind& cave : document_.recipe().caves->kinds)
    offered.emplace_back(QString::fromStdString(cave.name), cave.id);
  row.add(bindChoice(
              made.named("caves"), tr("Cave kinds of a kind of object"),
              tr("The cave kind that lines what they stand on or hang from."), offered,
              [id](const Recipe& r) {
                return oneOf(kindIn(const_cast<Recipe&>(r), id), &ObjectKind::caves);
              },
              [id](Recipe& r, const std::string& cave) {
                setOne(kindIn(r, id), &ObjectKind::caves, cave);
              }),
      1);
}

void ObjectsEditor::addNoise(
    QVBoxLayout* column, const Form<ObjectKind>& made, const ObjectKind& kind) {
  const std::string id = kind.id;
  Offered offered = {{tr("whatever the noise of walls has"), {}}};
  for (const acre::LevelProcess& process : document_.recipe().level->processes)
    if (std::holds_alternative<acre::NoiseWalls>(process.what))
      offered.emplace_back(
          tr("where the noise of %1 has").arg(QString::fromStdString(process.name)), process.id);
  if (offered.size() == 1 && !kind.noise) return;
  Row(column).add(
      bindChoice(
          made.named("noise"), tr("Noise of walls of a kind of object"),
          tr("A process of the level that makes walls of noise, at limits of its own."), offered,
          [id](const Recipe& r) -> std::optional<std::string> {
            const ObjectKind* of = kindIn(const_cast<Recipe&>(r), id);  // Only looked at.
            if (!of) return {};
            return of->noise ? of->noise->process : std::string();
          },
          [id](Recipe& r, const std::string& process) {
            ObjectKind* of = kindIn(r, id);
            if (!of) return;
            if (process.empty())
              of->noise.reset();
            else
              of->noise =
                  acre::ObjectNoise{process, of->noise ? of->noise->within : acre::Span{0.0, {}}};
          }),
      1);
  if (!kind.noise) return;
  const auto noise = made.within<acre::ObjectNoise>(
      *kind.noise, [](ObjectKind& k) { return k.noise ? &*k.noise : nullptr; },
      made.key() + QStringLiteral(".noise"));
  addSpan(column, noise, *kind.noise, &acre::ObjectNoise::within, tr("its value"));
}

template <class T>
void ObjectsEditor::addSpan(QVBoxLayout* column, const Form<T>& made, const T& kind,
    acre::Span T::*member, const QString& words, int indent) {
  const acre::About about = acre::aboutIn(kind, member);
  const QString title =
      QString::fromUtf8(about.title.data(), static_cast<qsizetype>(about.title.size()));
  const QString tip =
      QString::fromUtf8(about.what.data(), static_cast<qsizetype>(about.what.size()));
  const std::string key(about.key);
  const QString step = tr("%1 of a kind of object").arg(title);
  Row row(column);
  if (indent > 0) row.space(indent);
  auto* label = caption(words);
  label->setFixedWidth(kSpanWords);
  row.add(label);
  // Either end may be left open.
  for (const auto& [name, end, said] : {std::tuple("from", &acre::Span::low, tr("from")),
           std::tuple("to", &acre::Span::high, tr("to"))}) {
    const std::string of = key + "." + name;
    row.add(made.tick((of + ".on").c_str(), said, step, tip,
        [member, end = end](const T& k) { return (k.*member.*end).has_value(); },
        [member, end = end, range = about.range](T& k, bool on) {
          acre::Span& span = k.*member;
          const bool low = end == &acre::Span::low;
          const double usual = low ? std::max(0.0, range.low) : std::min(10.0, range.high);
          span.*end = on ? std::optional(low ? std::min(usual, span.high.value_or(usual))
                                             : std::max(usual, span.low.value_or(usual)))
                         : std::nullopt;
        }));
    if (kind.*member.*end)
      row.add(made.number(
                  of.c_str(), step, {about.range, about.step, false, false, {}}, tip,
                  [member, end = end](const T& k) { return k.*member.*end; },
                  [member, end = end](T& k, double v) { k.*member.*end = v; }),
          kNumberWidth);
  }
  row.rest();
}

void ObjectsEditor::addBiomes(QVBoxLayout* column, const ObjectKind& kind) {
  const acre::Recipe& recipe = document_.recipe();
  if (!acre::takesPart(recipe, acre::StageId::Biomes) || kind.must) return;
  const std::string id = kind.id;
  const auto densityIn = [id](Recipe& r, const std::string& biome) -> acre::BiomeDensity* {
    ObjectKind* of = kindIn(r, id);
    if (!of) return nullptr;
    const auto found = std::find_if(of->biomes.begin(), of->biomes.end(),
        [&](const acre::BiomeDensity& one) { return one.biome == biome; });
    return found == of->biomes.end() ? nullptr : &*found;
  };
  Offered others = {{tr("+ In a biome…"), {}}};
  for (const acre::Biome& biome : recipe.biomes.list)
    if (!densityIn(const_cast<Recipe&>(recipe), biome.id))
      others.emplace_back(QString::fromStdString(biome.name), biome.id);
  for (const acre::BiomeDensity& one : kind.biomes) {
    const std::string biome = one.biome;
    const auto made = form<acre::BiomeDensity>(
        one, [=](Recipe& r) { return densityIn(r, biome); },
        keyOf(id) + QStringLiteral(".in.") + QString::fromStdString(biome), tr("a biome"));
    const acre::Biome* named = acre::biomeOf(recipe, biome);
    Row(column)
        .space(22)
        .words(tr("in %1").arg(QString::fromStdString(named ? named->name : biome)))
        .rest()
        .add(made.number(&acre::BiomeDensity::density), kNumberWidth)
        .add(deleteButton(made.named("delete"), tr("No density of its own there"), [=](Recipe& r) {
          if (ObjectKind* of = kindIn(r, id))
            std::erase_if(
                of->biomes, [&](const acre::BiomeDensity& b) { return b.biome == biome; });
        }));
  }
  if (others.size() > 1)
    Row(column)
        .space(22)
        .add(bindChoice(
            keyOf(id) + QStringLiteral(".addBiome"), tr("Add density in a biome"),
            tr("A density of its own in one biome."), others,
            [](const Recipe&) { return std::optional(std::string()); },
            [=](Recipe& r, const std::string& biome) {
              if (ObjectKind* of = kindIn(r, id); of && !biome.empty())
                of->biomes.push_back({biome, of->density});
            }))
        .rest();
}

void ObjectsEditor::addGround(
    QVBoxLayout* column, const Form<ObjectKind>& made, const ObjectKind& kind) {
  const std::string id = kind.id;
  Offered grounds = {{tr("any ground"), {}}};
  if (kind.ground.size() > 1)
    grounds.emplace_back(tr("%1 materials of the file").arg(kind.ground.size()), several());
  Row on(column);
  if (document_.recipe().frame.kind != acre::WorldKind::Level)
    on.add(made.tick(&ObjectKind::wet, tr("under water too")));
  on.words(tr("on")).add(inked(bindChoice(
                             made.named("ground"), tr("Ground of a kind of object"),
                             tr("The material that they stand on."), materials(grounds),
                             [id](const Recipe& r) {  // Only looked at.
                               return oneOf(
                                   kindIn(const_cast<Recipe&>(r), id), &ObjectKind::ground);
                             },
                             [id](Recipe& r, const std::string& material) {
                               setOne(kindIn(r, id), &ObjectKind::ground, material);
                             })),
      1);
  Row(column)
      .words(tr("where"))
      .add(made.choice(&ObjectKind::field, fieldsOffered(tr("no field"))), 1);
  if (!kind.field.empty()) addSpan(column, made, kind, &ObjectKind::within, tr("its value"));
}

void ObjectsEditor::addAmount(
    QVBoxLayout* column, const Form<ObjectKind>& made, const ObjectKind& kind) {
  const auto must = made.tick(
      "must", tr("one in every square"), tr("One of a kind in every square"),
      tr("In place of a density: one in every square of the world, wherever its conditions hold."),
      [](const ObjectKind& k) { return k.must.has_value(); },
      [](ObjectKind& k, bool on) {
        k.must.reset();
        if (!on) return;
        k.must.emplace();
        k.amount.clear();
        k.curve.clear();
      });
  if (kind.must) {
    const auto square = made.within<acre::ObjectMust>(
        *kind.must, [](ObjectKind& k) { return k.must ? &*k.must : nullptr; },
        made.key() + QStringLiteral(".must"));
    Row row(column);
    row.add(must)
        .add(square.number(&acre::ObjectMust::square), kNumberWidth)
        .words(tr("cells"))
        .add(square.tick(&acre::ObjectMust::forced, tr("by force")))
        .rest();
    return;
  }
  made.numbers(column, kNumbersAcross, &ObjectKind::density, &ObjectKind::distance);
  Offered fields = {{tr("all of it everywhere"), {}}};
  for (const acre::FieldRecipe* field : fieldsOf(document_.recipe()))
    fields.emplace_back(tr("as %1 says").arg(QString::fromStdString(field->name)), field->id);
  Row row(column);
  row.add(must).add(made.choice(&ObjectKind::amount, fields), 1);
  if (kind.amount.empty()) return;
  row.add(made.tick(
      "curved", tr("by a curve"), tr("Curve of an amount"),
      tr("From the values of the field to shares of the density; without it the value is the "
         "share."),
      [](const ObjectKind& k) { return !k.curve.empty(); },
      [](ObjectKind& k, bool on) {
        k.curve = on ? acre::Curve{{-1, 0}, {1, 1}} : acre::Curve();
      }));
  if (kind.curve.empty()) return;
  addCurve(column, made.named("curve"), tr("Share of the density by the field's value"), kind.id,
      &ObjectKind::curve);
}

void ObjectsEditor::addCurve(QVBoxLayout* column, const QString& name, const QString& said,
    const std::string& id, acre::Curve ObjectKind::*member) {
  const auto curveOf = [id, member](Recipe& r) -> acre::Curve* {
    ObjectKind* of = kindIn(r, id);
    return of ? &(of->*member) : nullptr;
  };
  auto* curve = new CurveView;
  curve->setObjectName(name);
  curve->setAccessibleName(said);
  curve->setCurve(*curveOf(const_cast<Recipe&>(document_.recipe())));  // Only looked at.
  connect(curve, &CurveView::edited, this,
      [this, curveOf, name](const acre::Curve& points, bool during) {
        apply(
            tr("Curve of an amount"),
            [&](Recipe& r) {
              acre::Curve* of = curveOf(r);
              if (!of) return;
              *of = points;
              for (acre::CurvePoint& p : *of) p.y = std::clamp(p.y, 0.0, 1.0);
            },
            during ? name : QString());
      });
  connect(curve, &CurveView::gestureEnded, this, [this] { document_.endGesture(); });
  follow([curve, curveOf](const Recipe& r) {
    const acre::Curve* of = curveOf(const_cast<Recipe&>(r));  // Only looked at.
    if (of && !of->empty()) curve->setCurve(*of);
  });
  column->addWidget(curve);
}

void ObjectsEditor::addNeighbours(
    QVBoxLayout* column, const Form<ObjectKind>& made, const ObjectKind& kind) {
  Row even(column);
  even.add(made.tick(
      "footing", tr("even ground"), tr("Even ground under a kind of object"),
      tr("How far the highest of nine places about it may lie above the lowest."),
      [](const ObjectKind& k) { return k.footing.has_value(); },
      [](ObjectKind& k, bool on) {
        k.footing.reset();
        if (on) k.footing.emplace();
      }));
  if (kind.footing) {
    const auto footing = made.within<acre::ObjectFooting>(
        *kind.footing, [](ObjectKind& k) { return k.footing ? &*k.footing : nullptr; },
        made.key() + QStringLiteral(".footing"));
    footing.number(even, &acre::ObjectFooting::radius);
    footing.number(even, &acre::ObjectFooting::rise);
  }
  even.rest();
  using List = std::vector<acre::ObjectApart> ObjectKind::*;
  const auto within = [&](List list, const char* key, const std::string& other, const QString& step,
                          const QString& tip) {
    const auto of = [list, other](const ObjectKind& k) {
      const auto found = std::find_if((k.*list).begin(), (k.*list).end(),
          [&](const acre::ObjectApart& from) { return from.kind == other; });
      return found == (k.*list).end() ? 0 : found->cells;
    };
    return made.number((key + other).c_str(), step,
        {{0, acre::limits::objectDistance.high}, 1, true, false, {}}, tip,
        [of](const ObjectKind& k) -> std::optional<double> { return of(k); },
        [list, other](ObjectKind& k, double v) {
          std::erase_if(k.*list, [&](const acre::ObjectApart& from) { return from.kind == other; });
          if (v > 0) (k.*list).push_back({other, static_cast<int32_t>(v)});
        });
  };
  for (const ObjectKind& earlier : document_.recipe().objects->kinds) {
    if (earlier.id == kind.id) break;
    Row(column)
        .words(tr("%1:").arg(QString::fromStdString(earlier.name)))
        .words(tr("farther than"))
        .add(within(&ObjectKind::apart, "apart.", earlier.id, tr("Distance to another kind"),
                 tr("Cells that it keeps from that kind; 0: it does not care.")),
            kNumberWidth)
        .words(tr("nearer than"))
        .add(within(&ObjectKind::beside, "beside.", earlier.id, tr("Nearness to another kind"),
                 tr("One of that kind stands within so many cells; 0: it does not care.")),
            kNumberWidth)
        .words(tr("cells"))
        .rest();
  }
}

auto ObjectsEditor::fieldsOffered(const QString& none) const -> Offered {
  Offered out = {{none, {}}};
  for (const acre::FieldRecipe* field : fieldsOf(document_.recipe()))
    out.emplace_back(QString::fromStdString(field->name), field->id);
  return out;
}

/// A piece and a tree are chosen alike: one takes the place of the other.
template <class T>
Choice* ObjectsEditor::madeChoice(const Form<T>& made, const Place<T>& place, const QString& none) {
  return bindChoice(
      made.named("piece"), tr("What an object is made of"),
      tr("A drawn piece, or a tree of a style; without either it is a sign."), madeOffered(none),
      [place](const Recipe& r) -> std::optional<std::string> {
        const T* of = place(const_cast<Recipe&>(r));  // Only looked at.
        if (!of) return {};
        if (!of->tree.empty()) return "tree " + of->tree;
        return of->piece.empty() ? std::string() : "piece " + of->piece;
      },
      [place](Recipe& r, const std::string& chosen) {
        T* of = place(r);
        if (!of) return;
        const size_t space = chosen.find(' ');
        const bool tree = chosen.starts_with("tree ");
        const std::string id = chosen.empty() ? std::string() : chosen.substr(space + 1);
        of->tree = tree ? id : std::string();
        of->piece = tree ? std::string() : id;
      });
}

void ObjectsEditor::addMade(
    QVBoxLayout* column, const Form<ObjectKind>& made, const ObjectKind& kind) {
  Row row(column);
  row.words(tr("made of")).add(madeChoice(made, made.place(), tr("nothing: a sign")), 1);
  if (document_.recipe().frame.kind != acre::WorldKind::Level) return;
  // How many of them on each floor.
  row.add(made.tick(
      "byFloor", tr("by floor"), tr("Curve over floors"),
      tr("From the floor of the level to a share of the density."),
      [](const ObjectKind& k) { return !k.floors.empty(); },
      [&r = document_](ObjectKind& k, bool on) {
        const auto last = static_cast<double>(std::max(2, r.recipe().level->lastFloor));
        k.floors = on ? acre::Curve{{1, 0.25}, {last, 1}} : acre::Curve();
      }));
  if (kind.floors.empty()) return;
  addCurve(column, made.named("floors"), tr("Share of the density by floor"), kind.id,
      &ObjectKind::floors);
}

void ObjectsEditor::addChoicePlaces(QVBoxLayout* column, const Form<acre::ObjectChoice>& made,
    const acre::ObjectChoice& one, double sum,
    const std::function<acre::ObjectChoice*(acre::Recipe&)>& choiceIn) {
  constexpr int kIndent = 40;
  const Recipe& recipe = document_.recipe();
  Row row(column);
  row.space(kIndent)
      .add(made.number(&acre::ObjectChoice::weight), kNumberWidth)
      .words(sum > 0 ? look::percent(one.weight / sum) : QString());
  if (acre::takesPart(recipe, acre::StageId::Biomes)) {
    Offered biomes = {{tr("in every biome"), {}}};
    if (one.biomes.size() > 1)
      biomes.emplace_back(tr("in %1 biomes of the file").arg(one.biomes.size()), several());
    for (const acre::Biome& biome : recipe.biomes.list)
      biomes.emplace_back(tr("in %1").arg(QString::fromStdString(biome.name)), biome.id);
    row.add(bindChoice(
                made.named("biomes"), tr("Biomes of one of a kind"),
                tr("The biome in which it is drawn alone."), biomes,
                [choiceIn](const Recipe& r) {  // Only looked at.
                  return oneOf(choiceIn(const_cast<Recipe&>(r)), &acre::ObjectChoice::biomes);
                },
                [choiceIn](Recipe& r, const std::string& biome) {
                  setOne(choiceIn(r), &acre::ObjectChoice::biomes, biome);
                }),
        1);
  } else {
    row.rest();
  }
  Row(column)
      .space(kIndent)
      .words(tr("where"))
      .add(made.choice(&acre::ObjectChoice::field, fieldsOffered(tr("no field"))), 1);
  if (recipe.frame.kind == acre::WorldKind::Level)
    addSpan(column, made, one, &acre::ObjectChoice::floors, tr("on floors"), kIndent);
  if (!one.field.empty())
    addSpan(column, made, one, &acre::ObjectChoice::within, tr("its value"), kIndent);
}

void ObjectsEditor::addChoices(QVBoxLayout* column, const ObjectKind& kind) {
  const std::string id = kind.id;
  double sum = 0;
  for (const acre::ObjectChoice& one : kind.what) sum += one.weight;
  for (const acre::ObjectChoice& one : kind.what) {
    const std::string what = one.id;
    const auto choiceIn = [id, what](Recipe& r) -> acre::ObjectChoice* {
      ObjectKind* of = kindIn(r, id);
      return of ? withId(of->what, what) : nullptr;
    };
    const auto made = form<acre::ObjectChoice>(one, choiceIn,
        keyOf(id) + QStringLiteral(".what.") + QString::fromStdString(what), tr("an object"));
    Row(column)
        .space(22)
        .add(made.text(&acre::ObjectChoice::name), 1)
        .add(madeChoice(made, made.place(), tr("as its kind")), 1)
        .add(deleteButton(made.named("delete"), tr("Delete object"), [id, what](Recipe& r) {
          if (ObjectKind* of = kindIn(r, id))
            std::erase_if(of->what, [&](const acre::ObjectChoice& c) { return c.id == what; });
        }));
    addChoicePlaces(column, made, one, sum, choiceIn);
  }
  Row(column)
      .space(22)
      .add(button(
          tr("+ One of them"), keyOf(id) + QStringLiteral(".addChoice"),
          tr("Adds one of what this kind may be, drawn by its weight."),
          [id](Recipe& r) {
            ObjectKind* of = kindIn(r, id);
            if (!of) return;
            const std::string fresh = acre::freshId("object", idsOf(of->what));
            of->what.push_back({fresh, of->name + " " + std::to_string(of->what.size() + 1), 1});
          },
          tr("Add object")))
      .rest();
}

void ObjectsEditor::showPointer(const std::string& pointer) {
  // "/objects/kinds/INDEX/KEY".
  const QStringList parts = QString::fromStdString(pointer).split(QLatin1Char('/'));
  const auto& kinds = document_.recipe().objects->kinds;
  const size_t index = parts.size() > 3 ? parts[3].toUInt() : 0;
  if (index >= kinds.size()) {
    if (auto* add = findChild<QWidget*>(QStringLiteral("objects.addKind"))) add->setFocus();
    return;
  }
  const QString key = parts.size() > 4 ? parts[4] : QString();
  for (const QString& end : {QLatin1Char('.') + key, QStringLiteral(".density")})
    if (auto* field = findChild<QWidget*>(keyOf(kinds[index].id) + end)) return field->setFocus();
}

}  // namespace app

#include "moc_objects_editor.cpp"
