#include "app/walk/walk_pane.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QMenu>
#include <QVBoxLayout>
#include <algorithm>

#include "app/look/look.h"
#include "recipe/object_recipe.h"

namespace app {

WalkPane::WalkPane(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  view_ = new WalkView(document);
  bar_ = new QWidget;
  bar_->setFixedHeight(36);
  auto* row = new QHBoxLayout(bar_);
  row->setContentsMargins(26, 4, 12, 4);
  row->setSpacing(6);

  auto* ways = new QButtonGroup(this);
  fly_ = addButton(tr("Fly"), QStringLiteral("walk.fly"),
      tr("Fly: W A S D, Space up, X down, Shift faster, wheel for the speed (V)"));
  foot_ = addButton(tr("On foot"), QStringLiteral("walk.foot"),
      tr("On foot: lands on the ground below; Space jumps, one block is stepped up "
         "(V)"));
  for (QToolButton* b : {fly_, foot_}) {
    b->setCheckable(true);
    ways->addButton(b);
  }
  fly_->setChecked(true);
  connect(fly_, &QToolButton::clicked, this, [this] { view_->setFlying(true); });
  connect(foot_, &QToolButton::clicked, this, [this] { view_->setFlying(false); });
  connect(view_, &WalkView::flyingChanged, this,
      [this](bool flying) { (flying ? fly_ : foot_)->setChecked(true); });
  row->addSpacing(10);

  auto* tools = new QButtonGroup(this);
  const QString names[3] = {tr("Ask"), tr("Cut"), tr("Fill")};
  const QString tips[3] = {tr("A click asks why the block is what it is"),
      tr("A click takes the block away"), tr("A click puts the chosen material against the face")};
  const char* ids[3] = {"walk.ask", "walk.cut", "walk.fill"};
  for (size_t i = 0; i < 3; ++i) {
    tools_[i] = addButton(names[i], QLatin1String(ids[i]), tips[i]);
    tools_[i]->setCheckable(true);
    tools->addButton(tools_[i]);
    connect(tools_[i], &QToolButton::clicked, this,
        [this, i] { view_->setTool(static_cast<WalkView::Tool>(i)); });
  }
  tools_[0]->setChecked(true);
  material_ = new Choice;
  material_->setObjectName(QStringLiteral("walk.material"));
  material_->setAccessibleName(tr("Material to fill with"));
  material_->setToolTip(tr("What Fill puts"));
  material_->setMaximumWidth(140);
  connect(material_, &Choice::activated, this,
      [this] { view_->setFillMaterial(material_->currentData().toString()); });
  row->addWidget(material_);
  brush_ = new NumberField({{0, 8}, 1, false, true, tr("radius")}, QStringLiteral("walk.brush"));
  brush_->setAccessibleName(tr("Radius of the brush"));
  brush_->setToolTip(
      tr("Blocks around the one that is aimed at, in a ball; 0 is one block.\n"
         "Accepted: 0 to 8."));
  brush_->setFixedWidth(76);
  brush_->setFixedHeight(look::kControl);
  brush_->setValue(0);
  connect(brush_, &NumberField::edited, this,
      [this](double radius, bool) { view_->setBrush(static_cast<int>(radius)); });
  connect(brush_, &NumberField::refused, view_, &WalkView::refused);
  connect(brush_, &NumberField::left, this, [this] { view_->setFocus(); });
  row->addWidget(brush_);
  row->addSpacing(10);

  const auto addSwitch = [&](const QString& text, const QString& name, const QString& tip,
                             auto act) {
    QToolButton* b = addButton(text, name, tip);
    b->setCheckable(true);
    connect(b, &QToolButton::toggled, view_, act);
  };
  addSwitch(tr("Smooth"), QStringLiteral("walk.smooth"),
      tr("The ground as a smooth surface instead of blocks"), &WalkView::setSmooth);
  addSwitch(tr("Clear leaves"), QStringLiteral("walk.leaves"),
      tr("Leaves of trees let light through: wood is seen behind them"), &WalkView::setClearLeaves);
  addSwitch(tr("Lamp"), QStringLiteral("walk.lamp"), tr("Dark, but for a lamp that you carry"),
      &WalkView::setLamp);
  QToolButton* lines =
      addButton(tr("Lines ▾"), QStringLiteral("walk.lines"), tr("What is drawn over the blocks"));
  lines->setPopupMode(QToolButton::InstantPopup);
  lines->setMenu(new QMenu(lines));
  lines->menu()->setToolTipsVisible(true);
  const auto addLines = [&](const QString& text, const QString& name, const QString& tip,
                            auto act) {
    QAction* action = lines->menu()->addAction(text);
    action->setObjectName(name);
    action->setToolTip(tip);
    action->setCheckable(true);
    connect(action, &QAction::toggled, view_, act);
  };
  addLines(tr("Chunk lines"), QStringLiteral("walk.chunks"), tr("Lines where chunks meet"),
      &WalkView::setChunkLines);
  addLines(tr("Outlines"), QStringLiteral("walk.wire"),
      tr("The outlines of the merged rectangles alone"), &WalkView::setWireframe);
  row->addStretch(1);
  column->addWidget(bar_);
  column->addWidget(view_, 1);
  refresh();
}

void WalkPane::lightLamp() {
  findChild<QToolButton*>(QStringLiteral("walk.lamp"))->setChecked(true);
}

QToolButton* WalkPane::addButton(const QString& text, const QString& name, const QString& tip) {
  auto* button = new QToolButton;
  button->setText(text);
  button->setObjectName(name);
  button->setToolTip(tip);
  button->setAccessibleName(tip);
  button->setFixedHeight(look::kControl);
  bar_->layout()->addWidget(button);
  return button;
}

void WalkPane::refresh() {
  const acre::Recipe& recipe = document_.recipe();
  offerMaterials(*material_, recipe);
  view_->setFillMaterial(material_->currentData().toString());
  const bool leaves = recipe.frame.blocks() &&
                      std::any_of(recipe.objects->trees.begin(), recipe.objects->trees.end(),
                          [](const acre::TreeStyle& style) { return !style.leaf.empty(); });
  findChild<QToolButton*>(QStringLiteral("walk.leaves"))->setVisible(leaves);
  tools_[1]->setEnabled(recipe.frame.blocks() || recipe.frame.kind == acre::WorldKind::Level);
  if (view_->isVisible()) view_->refresh();
}

QString WalkPane::figures() const {
  const auto [faces, rectangles] = view_->facesAndRectangles();
  const acre::StreamStats stats = view_->streamStats();
  const acre::Walker& walker = view_->walker();
  const QString way =
      walker.flying ? tr("flying at %1 cells/s").arg(walker.flySpeed, 0, 'f', 0) : tr("on foot");
  const QString what = view_->smooth()
                           ? tr("%1 triangles").arg(look::wholeNumber(static_cast<qint64>(faces)))
                           : tr("%1 faces in %2 rectangles")
                                 .arg(look::wholeNumber(static_cast<qint64>(faces)),
                                     look::wholeNumber(static_cast<qint64>(rectangles)));
  return tr("%1 · %2 · %3 of %4 chunks · %5 ms a picture%6")
      .arg(way, what, look::wholeNumber(static_cast<qint64>(stats.held)),
          look::wholeNumber(static_cast<qint64>(stats.expected)))
      .arg(view_->frameMillis(), 0, 'f', 0)
      .arg(view_->drawnByGl() ? tr(" by OpenGL") : QString());
}

}  // namespace app

#include "moc_walk_pane.cpp"
