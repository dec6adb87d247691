// The styles that trees grow in: one of them at a time is open.
#include <cstdint>

#include "app/edit/lists.h"
#include "app/edit/swatch.h"
#include "app/objects/objects_editor.h"
#include "app/objects/tree_pictures.h"

namespace app {
namespace {

using acre::Recipe;
using acre::TreeStyle;

TreeStyle* treeIn(Recipe& r, const std::string& id) {
  return withId(r.objects->trees, id);
}

QString treeKey(const std::string& id) {
  return QStringLiteral("objects.tree.") + QString::fromStdString(id);
}

/// A broad tree of the first two materials that are solid.
TreeStyle firstStyle(const Recipe& r) {
  TreeStyle out;
  out.id = acre::freshId("tree", idsOf(r.objects->trees));
  out.name = "Tree " + std::to_string(r.objects->trees.size() + 1);
  std::vector<std::string> solid;
  for (const acre::Material& m : r.materials)
    if (m.state == acre::MaterialState::Solid) solid.push_back(m.id);
  if (solid.empty()) solid.push_back(r.materials[0].id);
  out.wood = solid[0];
  out.leaf = solid[std::min<size_t>(1, solid.size() - 1)];
  return out;
}

}  // namespace

void ObjectsEditor::addTrees(QVBoxLayout* column) {
  const Recipe& recipe = document_.recipe();
  section(column, tr("Trees"));
  if (recipe.objects->trees.empty())
    column->addWidget(
        caption(tr("A style says how trees grow: towards points in a crown, branch by branch, "
                   "until none is left. Bushes, logs, mushrooms and roots grow alike."),
            true));
  for (const TreeStyle& style : recipe.objects->trees) addTree(column, style);
  Row(column)
      .add(button(
          tr("+ Style"), QStringLiteral("objects.addTree"),
          tr("Adds a style of trees that kinds of objects may grow in."),
          [](Recipe& r) {
            if (!r.materials.empty()) r.objects->trees.push_back(firstStyle(r));
          },
          tr("Add style of trees")))
      .rest();
}

void ObjectsEditor::addTree(QVBoxLayout* column, const TreeStyle& style) {
  const std::string id = style.id;
  const auto made = form<TreeStyle>(
      style, [id](Recipe& r) { return treeIn(r, id); }, treeKey(id), tr("a style of trees"));
  auto* open = openButton(tr("Form"), made.named("form"), tr("Shows what the style is made of."),
      &ObjectsEditor::growing_, id);
  auto* bench = wordButton(tr("Grow"), made.named("grow"),
      tr("Opens the bench, on which trees of the style grow and are turned."));
  connect(bench, &QToolButton::clicked, this,
      [this, id] { emit benchRequested(QString::fromStdString(id)); });
  Row(column)
      .add(made.text(&TreeStyle::name), 1)
      .add(bench)
      .add(open)
      .add(deleteButton(made.named("delete"), tr("Delete style of trees"), [id](Recipe& r) {
        std::erase_if(r.objects->trees, [&](const TreeStyle& t) { return t.id == id; });
        for (acre::ObjectKind& kind : r.objects->kinds) {
          if (kind.tree == id) kind.tree.clear();
          for (acre::ObjectChoice& one : kind.what)
            if (one.tree == id) one.tree.clear();
        }
      }));
  if (growing_ == id) addTreeForm(column, made, style);
}

void ObjectsEditor::addTreeForm(
    QVBoxLayout* column, const Form<TreeStyle>& made, const TreeStyle& style) {
  Row(column)
      .words(tr("crown"))
      .add(made.choice(&TreeStyle::crown, {tr("round"), tr("cone"), tr("dome"), tr("flat")}), 1)
      .add(made.tick(&TreeStyle::leader, tr("leader")))
      .add(made.tick(&TreeStyle::lies, tr("lies")));
  made.numbers(column, kNumbersAcross, &TreeStyle::height, &TreeStyle::radius, &TreeStyle::base,
      &TreeStyle::vary, &TreeStyle::lobes, &TreeStyle::hollow, &TreeStyle::tiers,
      &TreeStyle::variants);
  made.numbers(column, kNumbersAcross, &TreeStyle::points, &TreeStyle::segment,
      &TreeStyle::influence, &TreeStyle::kill, &TreeStyle::up, &TreeStyle::swirl, &TreeStyle::lean,
      &TreeStyle::twist, &TreeStyle::droop);
  Row(column).words(tr("wood of")).add(inked(made.material(&TreeStyle::wood)), 1);
  made.numbers(column, kNumbersAcross, &TreeStyle::twig, &TreeStyle::thickest);
  const bool bare = style.leaves == acre::TreeLeaves::None;
  Row(column)
      .words(tr("leaves"))
      .add(made.choice(&TreeStyle::leaves,
               {tr("none"), tr("at the ends"), tr("near the ends"), tr("all along"), tr("a cap")}),
          1);
  if (!bare) {
    Row(column).words(tr("of")).add(
        inked(made.material(&TreeStyle::leaf, {{tr("nothing"), {}}})), 1);
    if (style.leaves == acre::TreeLeaves::Near)
      made.numbers(column, kNumbersAcross, &TreeStyle::leafReach);
    made.numbers(
        column, kNumbersAcross, &TreeStyle::leafWide, &TreeStyle::leafTall, &TreeStyle::leafFill);
  }
  Row wind(column);
  wind.words(tr("wind")).add(made.choice(&TreeStyle::wind, fieldsOffered(tr("stands in none"))), 1);
  if (!style.wind.empty()) made.number(wind, &TreeStyle::toward, kNumberWidth, tr("toward"));
  made.eachNumber([&](const QString& key, NumberField* field) {
    const bool several = key == QLatin1String("vary") || key == QLatin1String("variants");
    const bool windy = key == QLatin1String("lean") || key == QLatin1String("toward");
    previews_->setPicturesOf(field,
        [id = style.id, which = several ? Trees::Variants
                                : windy ? Trees::InWind
                                        : Trees::One](const acre::World& low,
            const acre::World& high, const MapGeometry&) { return treesOf(low, high, id, which); });
  });
  column->addSpacing(4);
}

/// What objects may be made of: nothing, the pieces, the styles of trees.
auto ObjectsEditor::madeOffered(const QString& none) const -> Offered {
  Offered out = {{none, {}}};
  for (const acre::ObjectPiece& piece : document_.recipe().objects->pieces)
    out.emplace_back(QString::fromStdString(piece.name), "piece " + piece.id);
  for (const TreeStyle& style : document_.recipe().objects->trees)
    out.emplace_back(tr("a tree: %1").arg(QString::fromStdString(style.name)), "tree " + style.id);
  return out;
}

}  // namespace app
