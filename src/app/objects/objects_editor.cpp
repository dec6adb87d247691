#include "app/objects/objects_editor.h"

#include <algorithm>

#include "app/edit/lists.h"
#include "app/edit/shape.h"
#include "app/edit/swatch.h"
#include "app/look/look.h"
#include "world/world.h"

namespace app {
namespace {

using acre::ObjectKind;
using acre::Recipe;

constexpr int kAcross = 2;  // Numbers a row.

QString keyOf(const std::string& id) {
  return QStringLiteral("objects.") + QString::fromStdString(id);
}

ObjectKind* kindIn(Recipe& r, const std::string& id) {
  return withId(r.objects->kinds, id);
}

/// Stands for more than one material where one is chosen; no id of a material.
const std::string& severalGrounds() {
  static const std::string kSeveral = "*";
  return kSeveral;
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
  column_ = new QVBoxLayout(this);
  column_->setContentsMargins(16, 12, 16, 12);
  refresh();
}

std::vector<acre::ObjectFigures> ObjectsEditor::found() const {
  return inView_.found().value_or(std::vector<acre::ObjectFigures>());
}

void ObjectsEditor::refresh() {
  const Recipe& r = document_.recipe();
  std::string shape = shapeOf(*r.objects) + namesOf(r.materials) + namesOf(r.objects->kinds);
  for (const acre::FieldRecipe* field : fieldsOf(r)) shape += field->id + field->name;
  if (shape != built_) {
    built_ = shape;
    rebuild();
  }
  refreshControls();
  if (isVisible()) inView_.refresh();
}

// ---- what became of them -----------------------------------------------------------------------

void ObjectsEditor::setView(const MapGeometry& view) {
  Editor::setView(view);
  inView_.setView(view);
}

void ObjectsEditor::showEvent(QShowEvent* event) {
  Editor::showEvent(event);
  inView_.refresh();
}

void ObjectsEditor::hideEvent(QHideEvent* event) {
  Editor::hideEvent(event);
  inView_.hide();
}

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
  for (const auto& [id, label] : labels_) {
    const auto one = std::find_if(found.begin(), found.end(),
        [&, &id = id](const auto& f) { return f.kind < kinds.size() && kinds[f.kind].id == id; });
    label->setEnabled(!inView_.measuring());
    if (one == found.end()) {
      label->setText(inView_.measuring() ? tr("Counting the view…") : QString());
      continue;
    }
    QString text = tr("%1 in view: %2 of 1,000 cells, %3 asked; at most %4 fit.")
                       .arg(look::wholeNumber(static_cast<qint64>(one->count)),
                           look::number(std::round(one->placed * 100) / 100),
                           look::number(std::round(one->asked * 100) / 100),
                           look::number(std::round(one->most * 10) / 10));
    if (const std::string why = one->reasons(); !why.empty())
      text += tr(" Refused: %1.").arg(QString::fromStdString(why));
    label->setText(text.replace(QStringLiteral(" %"), QStringLiteral("\u00A0%")));
  }
}

// ---- controls ----------------------------------------------------------------------------------

void ObjectsEditor::rebuild() {
  labels_.clear();
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
  column->addStretch(1);
  showFigures();
}

void ObjectsEditor::moveKind(const std::string& id, int by, const QString& step) {
  apply(step, [&](Recipe& r) {
    auto& list = r.objects->kinds;
    moveIn(list, id, by);
    // What one keeps from stands before it.
    for (auto kind = list.begin(); kind != list.end(); ++kind)
      std::erase_if(kind->apart, [&](const acre::ObjectApart& from) {
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
      std::erase_if(other.apart, [&](const acre::ObjectApart& from) { return from.kind == id; });
  }));
  made.numbers(column, kAcross, &ObjectKind::density, &ObjectKind::distance);
  auto* label = caption({}, true);
  label->setObjectName(made.named("found"));
  column->addWidget(label);
  labels_[id] = label;
  addSpan(column, made, kind, &ObjectKind::altitude, tr("altitude"));
  addSpan(column, made, kind, &ObjectKind::slope, tr("slope"));
  addSpan(column, made, kind, &ObjectKind::shore, tr("from water"));
  addGround(column, made, kind);
  addChoices(column, kind);
}

void ObjectsEditor::addSpan(QVBoxLayout* column, const Form<ObjectKind>& made,
    const ObjectKind& kind, acre::Span ObjectKind::*member, const QString& words) {
  const acre::About about = acre::aboutIn(kind, member);
  const QString title =
      QString::fromUtf8(about.title.data(), static_cast<qsizetype>(about.title.size()));
  const QString tip =
      QString::fromUtf8(about.what.data(), static_cast<qsizetype>(about.what.size()));
  const std::string key(about.key);
  Row row(column);
  row.add(made.tick(
      key.c_str(), words, tr("%1 of a kind of object").arg(title), tip,
      [member](const ObjectKind& k) { return (k.*member).low || (k.*member).high; },
      [member, range = about.range](ObjectKind& k, bool on) {
        k.*member =
            on ? acre::Span{std::max(0.0, range.low), std::min(10.0, range.high)} : acre::Span{};
      }));
  row.rest();
  if (!(kind.*member).low && !(kind.*member).high) return;
  for (const auto& [name, end, said] : {std::tuple("from", &acre::Span::low, tr("from")),
           std::tuple("to", &acre::Span::high, tr("to"))})
    row.words(said).add(
        made.number((key + "." + name).c_str(), tr("%1 of a kind of object").arg(title),
            {about.range, about.step, false, false, {}}, tip,
            [member, end = end](const ObjectKind& k) { return k.*member.*end; },
            [member, end = end](ObjectKind& k, double v) { k.*member.*end = v; }),
        kNumberWidth);
}

void ObjectsEditor::addGround(
    QVBoxLayout* column, const Form<ObjectKind>& made, const ObjectKind& kind) {
  const std::string id = kind.id;
  Offered grounds = {{tr("any ground"), {}}};
  if (kind.ground.size() > 1)
    grounds.emplace_back(tr("%1 materials of the file").arg(kind.ground.size()), severalGrounds());
  Row(column)
      .add(made.tick(&ObjectKind::wet, tr("under water too")))
      .words(tr("on"))
      .add(inked(bindChoice(
               made.named("ground"), tr("Ground of a kind of object"),
               tr("The material that they stand on."), materials(grounds),
               [id](const Recipe& r) -> std::optional<std::string> {
                 const ObjectKind* of = kindIn(const_cast<Recipe&>(r), id);  // Only looked at.
                 if (!of) return {};
                 if (of->ground.empty()) return std::string();
                 return of->ground.size() > 1 ? severalGrounds() : of->ground[0];
               },
               [id](Recipe& r, const std::string& material) {
                 ObjectKind* of = kindIn(r, id);
                 if (!of || material == severalGrounds()) return;
                 of->ground.clear();
                 if (!material.empty()) of->ground.push_back(material);
               })),
          1);
  Offered fields = {{tr("no field"), {}}};
  for (const acre::FieldRecipe* field : fieldsOf(document_.recipe()))
    fields.emplace_back(QString::fromStdString(field->name), field->id);
  Row(column).words(tr("where")).add(made.choice(&ObjectKind::field, fields), 1);
  if (!kind.field.empty()) addSpan(column, made, kind, &ObjectKind::within, tr("its value"));
  for (const ObjectKind& earlier : document_.recipe().objects->kinds) {
    if (earlier.id == id) break;
    const std::string other = earlier.id;
    const auto apartOf = [other](const ObjectKind& k) {
      const auto found = std::find_if(k.apart.begin(), k.apart.end(),
          [&](const acre::ObjectApart& from) { return from.kind == other; });
      return found == k.apart.end() ? 0 : found->cells;
    };
    Row(column)
        .words(tr("keeps from %1").arg(QString::fromStdString(earlier.name)))
        .add(made.number(("apart." + other).c_str(), tr("Distance to another kind"),
                 {{0, acre::limits::objectDistance.high}, 1, true, false, {}},
                 tr("Cells that it keeps from that kind; 0: it does not care."),
                 [apartOf](const ObjectKind& k) -> std::optional<double> { return apartOf(k); },
                 [other](ObjectKind& k, double v) {
                   std::erase_if(
                       k.apart, [&](const acre::ObjectApart& from) { return from.kind == other; });
                   if (v > 0) k.apart.push_back({other, static_cast<int32_t>(v)});
                 }),
            kNumberWidth)
        .words(tr("cells"))
        .rest();
  }
}

void ObjectsEditor::addChoices(QVBoxLayout* column, const ObjectKind& kind) {
  const std::string id = kind.id;
  double sum = 0;
  for (const acre::ObjectChoice& one : kind.what) sum += one.weight;
  for (const acre::ObjectChoice& one : kind.what) {
    const std::string what = one.id;
    const auto made = form<acre::ObjectChoice>(
        one,
        [id, what](Recipe& r) -> acre::ObjectChoice* {
          ObjectKind* of = kindIn(r, id);
          return of ? withId(of->what, what) : nullptr;
        },
        keyOf(id) + QStringLiteral(".what.") + QString::fromStdString(what), tr("an object"));
    Row(column)
        .space(22)
        .add(made.text(&acre::ObjectChoice::name), 1)
        .add(made.number(&acre::ObjectChoice::weight), kNumberWidth)
        .words(sum > 0 ? look::percent(one.weight / sum) : QString())
        .add(deleteButton(made.named("delete"), tr("Delete object"), [id, what](Recipe& r) {
          if (ObjectKind* of = kindIn(r, id))
            std::erase_if(of->what, [&](const acre::ObjectChoice& c) { return c.id == what; });
        }));
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
