#include "app/objects/tree_bench.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QSignalBlocker>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/edit/lists.h"
#include "app/look/caption.h"
#include "app/look/look.h"
#include "world/engine.h"
#include "world/plan.h"

namespace app {

using acre::TreeStyle;

TreeBench::TreeBench(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setObjectName(QStringLiteral("bench"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(10, 8, 10, 8);
  column->setSpacing(6);
  buildHead(column);
  none_ =
      look::caption(tr("No style of trees yet. Add one in the stage Objects, under Trees."), true);
  column->addWidget(none_);
  canvas_ = new TreeCanvas;
  canvas_->setFocusPolicy(Qt::StrongFocus);
  canvas_->setToolTip(
      tr("Drag to turn it, the wind to lean it. Wheel, or Left and Right: a round "
         "less or more. Up and Down: another variant."));
  column->addWidget(canvas_, 1);
  buildFoot(column);
  connect(canvas_, &TreeCanvas::drawn, this, &TreeBench::tell);
  connect(canvas_, &TreeCanvas::turned, this, [this](double yaw, double pitch) {
    yaw_ = yaw;
    pitch_ = pitch;
    draw();
  });
  connect(canvas_, &TreeCanvas::stepped, this,
      [this](int by) { setRounds(canvas_->told().rounds + by); });
  connect(canvas_, &TreeCanvas::chosen, this, [this](int place) {
    sheet_->setChecked(false);
    setVariant(place);
  });
  connect(canvas_, &TreeCanvas::windDragged, this, &TreeBench::takeWind);
  connect(&document_, &Document::recipeChanged, this, &TreeBench::refresh);
  refresh();
}

void TreeBench::buildHead(QVBoxLayout* column) {
  auto* head = new QHBoxLayout;
  head->setSpacing(8);
  head->addWidget(look::caption(tr("Tree bench")));
  style_ = new Choice;
  style_->setObjectName(QStringLiteral("bench.style"));
  style_->setAccessibleName(tr("Style on the bench"));
  connect(style_, &Choice::activated, this, [this] {
    whole_ = true;
    setVariant(0);
  });
  head->addWidget(style_, 1);
  head->addWidget(look::caption(tr("variant")));
  variant_ = new NumberField({{0, 63}, 1, false, true, {}}, tr("Variant"));
  variant_->setObjectName(QStringLiteral("bench.variant"));
  variant_->setFixedWidth(46);
  connect(variant_, &NumberField::edited, this,
      [this](double v, bool) { setVariant(static_cast<int>(v)); });
  head->addWidget(variant_);
  const auto tick = [&](const QString& words, const char* name, bool on, const QString& tip) {
    auto* made = new Tick(words);
    made->setObjectName(QLatin1String(name));
    made->setChecked(on);
    made->setToolTip(tip);
    connect(made, &Tick::toggled, this, &TreeBench::draw);
    head->addWidget(made);
    return made;
  };
  points_ = tick(tr("points"), "bench.points", false,
      tr("Points that wait, the branch that each pulls at, and what the last round grew."));
  wood_ = tick(tr("wood"), "bench.wood", true, tr("Blocks of wood."));
  leaves_ = tick(tr("leaves"), "bench.leaves", true, tr("Blocks of leaves."));
  sheet_ = tick(tr("sixteen"), "bench.sheet", false,
      tr("Sixteen variants side by side; a click takes one to the bench."));
  auto* close = new QToolButton;
  close->setObjectName(QStringLiteral("bench.close"));
  close->setText(QString::fromUtf8("×"));
  close->setToolTip(tr("Back to the map (Esc)"));
  close->setAccessibleName(tr("Close the bench"));
  connect(close, &QToolButton::clicked, this, &TreeBench::closed);
  head->addWidget(close);
  column->addLayout(head);
}

void TreeBench::buildFoot(QVBoxLayout* column) {
  auto* foot = new QHBoxLayout;
  foot->setSpacing(8);
  const auto slider = [&](const QString& words, const char* name, const QString& tip) {
    foot->addWidget(look::caption(words));
    auto* made = new QSlider(Qt::Horizontal);
    made->setObjectName(QLatin1String(name));
    made->setAccessibleName(words);
    made->setToolTip(tip);
    foot->addWidget(made, 1);
    return made;
  };
  rounds_ = slider(tr("grown"), "bench.rounds", tr("Rounds that it has grown."));
  connect(rounds_, &QSlider::valueChanged, this, &TreeBench::setRounds);
  slice_ = slider(tr("cut"), "bench.cut", tr("Cuts through it from the south."));
  slice_->setRange(0, 100);
  slice_->setValue(100);
  connect(slice_, &QSlider::valueChanged, this, &TreeBench::draw);
  column->addLayout(foot);
  told_ = look::caption({});
  told_->setObjectName(QStringLiteral("bench.told"));
  column->addWidget(told_);
}

void TreeBench::showStyle(const QString& id) {
  const int at = style_->findData(id);
  if (at < 0) return;
  style_->setCurrentIndex(at);
  whole_ = true;
  setVariant(0);
}

void TreeBench::refresh() {
  const auto& trees = document_.recipe().objects->trees;
  const QString was = style();
  const QSignalBlocker quiet(style_);
  style_->clear();
  for (const TreeStyle& one : trees)
    style_->addItem(QString::fromStdString(one.name), QString::fromStdString(one.id));
  style_->setCurrentIndex(std::max(0, style_->findData(was)));
  none_->setVisible(trees.empty());
  canvas_->setVisible(!trees.empty());
  draw();
}

void TreeBench::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  draw();
}

void TreeBench::setRounds(int rounds) {
  const int all = canvas_->told().allRounds;
  rounds = std::clamp(rounds, 0, all);
  whole_ = rounds == all;
  const QSignalBlocker quiet(rounds_);
  rounds_->setRange(0, all);
  rounds_->setValue(rounds);
  draw();
}

void TreeBench::setVariant(int variant) {
  const auto highest = static_cast<int>(acre::limits::treeVariants.high) - 1;
  variant_->setValue(std::clamp(variant, 0, highest));
  draw();
}

void TreeBench::draw() {
  if (!isVisible()) return;
  const auto& recipe = document_.recipe();
  const auto& trees = recipe.objects->trees;
  const std::string id = style().toStdString();
  const auto found =
      std::find_if(trees.begin(), trees.end(), [&](const TreeStyle& one) { return one.id == id; });
  if (found == trees.end()) return;
  TreeRequest request;
  request.style = *found;
  request.materials = recipe.materials;
  request.seed = planOf(*document_.world()).seed();
  request.variant = static_cast<uint64_t>(variant_->value());
  if (!whole_) request.rounds = rounds_->value();
  request.wind = wind_;
  request.points = points_->isChecked();
  request.wood = wood_->isChecked();
  request.leaves = leaves_->isChecked();
  request.sheet = sheet_->isChecked();
  request.slice = slice_->value() / 100.0;
  request.yaw = yaw_;
  request.pitch = pitch_;
  canvas_->show_(request);
}

void TreeBench::tell() {
  const TreeTold& t = canvas_->told();
  const QSignalBlocker quiet(rounds_);
  rounds_->setRange(0, t.allRounds);
  rounds_->setValue(t.rounds);
  const auto whole = [](size_t n) { return look::wholeNumber(static_cast<qint64>(n)); };
  if (canvas_->request().sheet)
    return told_->setText(tr("sixteen variants at one scale, grown to their end"));
  told_->setText(
      tr("round %1 of %2 · %3 nodes · %4 of %5 points reached · %6 blocks of wood, %7 of "
         "leaves")
          .arg(t.rounds)
          .arg(t.allRounds)
          .arg(whole(t.nodes), whole(t.gone), whole(t.points), whole(t.wood), whole(t.leaves)));
}

/// How hard it blows is on trial; where it goes is the style's.
void TreeBench::takeWind(double strength, double toward, bool during) {
  wind_ = strength;
  const std::string id = style().toStdString();
  acre::Recipe next = document_.recipe();
  TreeStyle* of = withId(next.objects->trees, id);
  if (of && strength > 0 && of->toward != toward) {
    of->toward = toward;
    document_.change(tr("Wind of a style of trees"), next, QStringLiteral("bench.wind"));
  }
  if (!during) document_.endGesture();
  draw();
}

void TreeBench::keyPressEvent(QKeyEvent* e) {
  switch (e->key()) {
    case Qt::Key_Escape:
      return emit closed();
    case Qt::Key_Left:
      return setRounds(canvas_->told().rounds - 1);
    case Qt::Key_Right:
      return setRounds(canvas_->told().rounds + 1);
    case Qt::Key_Up:
      return setVariant(static_cast<int>(variant_->value()) + 1);
    case Qt::Key_Down:
      return setVariant(static_cast<int>(variant_->value()) - 1);
    default:
      QWidget::keyPressEvent(e);
  }
}

}  // namespace app

#include "moc_tree_bench.cpp"
