#include "app/window/title_row.h"

#include <QButtonGroup>
#include <QKeyEvent>
#include <QMenu>
#include <QRandomGenerator>

#include "app/look/look.h"
#include "base/seed.h"
#include "recipe/object_recipe.h"
#include "recipe/stages.h"

namespace app {
namespace {

QLabel* caption(const QString& text) {
  auto* label = new QLabel(text);
  label->setProperty("role", "caption");
  return label;
}

constexpr int kNameRoom = 200, kLeastNameRoom = 60;  // Pixels.
constexpr int kSeedWidth = 160, kTightSeedWidth = 112;
constexpr int kPictureWidth = 150, kTightPictureWidth = 116;

}  // namespace

TitleRow::TitleRow(Settings& settings, QWidget* parent)
    : QWidget(parent), settings_(settings), history_(settings.seeds()) {
  setFixedHeight(look::kTitleRow + 4);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(26, 4, 16, 2);
  row->setSpacing(6);
  row->setSizeConstraint(QLayout::SetNoConstraint);  // It folds instead.
  name_ = new QLabel;
  name_->setObjectName(QStringLiteral("title.name"));
  name_->setFont(look::font(look::Type::Title));
  row->addWidget(name_);
  row->addSpacing(12);
  folded_ = new QFrame(this, Qt::Popup);
  folded_->setObjectName(QStringLiteral("title.folded"));
  folded_->setProperty("role", "drawer");
  folded_->setAutoFillBackground(true);
  foldedRows_ = new QGridLayout(folded_);
  foldedRows_->setContentsMargins(12, 10, 12, 10);
  foldedRows_->setHorizontalSpacing(12);
  buildSeed(row);
  row->addStretch(1);
  buildView(row);
  more_ = addButton(row, tr("More ▾"), QStringLiteral("title.more"),
      tr("What the row has no room for: a wider window shows it"));
  connect(more_, &QToolButton::clicked, this, &TitleRow::showFolded);
  more_->hide();
}

QToolButton* TitleRow::makeButton(const QString& text, const QString& name, const QString& tip) {
  auto* button = new QToolButton;
  button->setText(text);
  button->setObjectName(name);
  button->setToolTip(tip);
  button->setAccessibleName(tip);
  button->setFixedHeight(look::kControl);
  return button;
}

QToolButton* TitleRow::addButton(
    QHBoxLayout* row, const QString& text, const QString& name, const QString& tip) {
  auto* button = makeButton(text, name, tip);
  row->addWidget(button);
  return button;
}

/// label: what it is called in the menu. word: what stands before it in the row; empty: nothing.
QWidget* TitleRow::addFoldable(
    QHBoxLayout* row, QWidget* part, const QString& label, const QString& word) {
  auto* slot = new QWidget;
  auto* inside = new QHBoxLayout(slot);
  inside->setContentsMargins(0, 0, 0, 0);
  inside->setSpacing(row->spacing());
  if (!word.isEmpty()) inside->addWidget(caption(word));
  inside->addWidget(part);
  row->addWidget(slot);
  auto* name = caption(label);
  name->setParent(folded_);
  name->hide();
  foldables_.push_back({slot, part, name});
  return slot;
}

void TitleRow::fold(Foldable& each, bool folded) {
  if (each.folded == folded) return;
  each.folded = folded;
  if (folded) {
    const int at = static_cast<int>(&each - foldables_.data());
    each.slot->layout()->removeWidget(each.part);
    foldedRows_->addWidget(each.label, at, 0);
    foldedRows_->addWidget(each.part, at, 1);
  } else {
    foldedRows_->removeWidget(each.label);
    foldedRows_->removeWidget(each.part);
    each.slot->layout()->addWidget(each.part);
  }
  each.label->setVisible(folded);
  each.slot->setVisible(!folded);
  each.part->show();
}

void TitleRow::setTight(bool tight) {
  seed_->setFixedWidth(tight ? kTightSeedWidth : kSeedWidth);
  picture_->setMaximumWidth(tight ? kTightPictureWidth : kPictureWidth);
}

void TitleRow::fit() {
  const auto nameWithin = [this](int pixels) {
    name_->setText(name_->fontMetrics().elidedText(fullName_, Qt::ElideRight, pixels));
  };
  const auto over = [this] {
    layout()->invalidate();
    return layout()->sizeHint().width() - width();
  };
  nameWithin(kNameRoom);
  setTight(false);
  more_->hide();
  for (Foldable& each : foldables_) fold(each, false);
  if (over() > 0) setTight(true);
  for (size_t i = foldables_.size(); i-- > 0 && over() > 0;) {
    fold(foldables_[i], true);
    more_->show();
  }
  if (const int left = over(); left > 0)
    nameWithin(std::max(kLeastNameRoom, name_->sizeHint().width() - left));
  if (!more_->isVisible()) folded_->hide();
}

void TitleRow::showFolded() {
  folded_->adjustSize();
  const QPoint corner = more_->mapToGlobal(QPoint(more_->width(), more_->height()));
  folded_->move(corner - QPoint(folded_->width(), 0));
  folded_->show();
  for (const Foldable& each : foldables_)
    if (each.folded) return each.part->setFocus();
}

void TitleRow::buildSeed(QHBoxLayout* row) {
  row->addWidget(caption(tr("seed")));
  seed_ = new QLineEdit;
  seed_->setObjectName(QStringLiteral("title.seed"));
  seed_->setAccessibleName(tr("Seed"));
  seed_->setFont(look::font(look::Type::Title));
  seed_->setFixedHeight(34);
  seed_->setMaxLength(200);
  seed_->setToolTip(
      tr("Any text or whole number; the same seed is always the same world.\n"
         "Up and Down step to the next number. 2⁶⁴ worlds."));
  seed_->installEventFilter(this);
  connect(seed_, &QLineEdit::editingFinished, this, [this] {
    if (!seed_->isModified()) return;
    seed_->setModified(false);
    emit seedChosen(seed_->text());
  });
  row->addWidget(seed_);
  connect(addButton(row, QStringLiteral("‹"), QStringLiteral("title.earlier"),
              tr("The seed before (PgUp)")),
      &QToolButton::clicked, this, &TitleRow::earlier);
  connect(addButton(row, QStringLiteral("›"), QStringLiteral("title.later"),
              tr("The seed after, or a new one (PgDn)")),
      &QToolButton::clicked, this, &TitleRow::later);
  connect(addButton(row, tr("Roll"), QStringLiteral("title.roll"),
              tr("A new seed (R); none is ever lost")),
      &QToolButton::clicked, this, &TitleRow::roll);
  seeds_ = makeButton(tr("Seeds ▾"), QStringLiteral("title.seeds"), tr("All seeds so far"));
  addFoldable(row, seeds_, tr("Seeds so far"), {});
  connect(seeds_, &QToolButton::clicked, this, &TitleRow::showHistory);
}

void TitleRow::resizeEvent(QResizeEvent*) {
  fit();
}

void TitleRow::setPane(Panes::Large large) {
  // The bench is none of the three.
  const bool one = large != Panes::Large::Trees;
  panes_[0]->group()->setExclusive(one);
  for (size_t i = 0; i < panes_.size(); ++i) panes_[i]->setChecked(i == static_cast<size_t>(large));
}

void TitleRow::buildView(QHBoxLayout* row) {
  auto* group = new QButtonGroup(this);
  const QString names[3] = {tr("Map"), tr("Section"), tr("Walk")};
  const QString tips[3] = {tr("The map fills the large pane, the section lies below it (Ctrl+1)"),
      tr("The section fills the large pane (Ctrl+2)"),
      tr("The world as one sees it from within (Ctrl+3)")};
  const char* ids[3] = {"title.map", "title.section", "title.walk"};
  for (size_t i = 0; i < 3; ++i) {
    panes_[i] = addButton(row, names[i], QLatin1String(ids[i]), tips[i]);
    panes_[i]->setCheckable(true);
    group->addButton(panes_[i]);
    connect(panes_[i], &QToolButton::clicked, this,
        [this, i] { emit paneChosen(static_cast<Panes::Large>(i)); });
  }
  panes_[0]->setChecked(true);
  row->addSpacing(8);
  picture_ = new Choice;
  picture_->setObjectName(QStringLiteral("title.picture"));
  picture_->setAccessibleName(tr("Picture shown on the map"));
  picture_->setToolTip(
      tr("Composite: materials under relief shading. Height: tints by altitude, or grey.\n"
         "Slope: steep is dark. Material: flat colours. Then every field, and the chosen layer."));
  picture_->setMinimumWidth(110);
  picture_->setMaximumWidth(150);
  connect(picture_, &Choice::activated, this,
      [this](int index) { emit pictureChosen(pictures_[static_cast<size_t>(index)]); });
  addFoldable(row, picture_, tr("Picture"), {});
  upTo_ = new Choice;
  upTo_->setObjectName(QStringLiteral("title.upTo"));
  upTo_->setAccessibleName(tr("Last stage shown"));
  std::vector<acre::StageId> stages = {Showing::kAll};
  upTo_->addItem(tr("all"));
  for (const acre::StageDef& stage : acre::allStages()) {
    // The climate changes nothing that is seen, and a floor is seen with its rock.
    if (stage.id == Showing::kAll || stage.id == acre::StageId::Climate ||
        stage.id == acre::StageId::Level)
      continue;
    stages.push_back(stage.id);
    upTo_->addItem(tr(stage.title));
  }
  upTo_->setToolTip(tr("Shows the world as it stands after a stage."));
  connect(upTo_, &Choice::activated, this,
      [this, stages](int index) { emit upToChosen(stages[static_cast<size_t>(index)]); });
  addFoldable(row, upTo_, tr("Up to"), tr("up to"));
  chunks_ = makeButton(tr("Chunks"), QStringLiteral("title.chunks"),
      tr("Chunks loaded around the viewpoint; ground that is not loaded is faint (G)"));
  chunks_->setCheckable(true);
  chunks_->setChecked(settings_.chunksShown());
  connect(chunks_, &QToolButton::toggled, this, [this](bool shown) {
    settings_.setChunksShown(shown);
    emit chunksShown(shown);
  });
  addFoldable(row, chunks_, tr("Around the viewpoint"), {});
  ring_ = makeButton(
      tr("Ring"), QStringLiteral("title.ring"), tr("The view distance around the viewpoint (V)"));
  ring_->setCheckable(true);
  ring_->setChecked(settings_.ringShown());
  connect(ring_, &QToolButton::toggled, this, [this](bool shown) {
    settings_.setRingShown(shown);
    emit ringShown(shown);
  });
  addFoldable(row, ring_, {}, {});
  distance_ = new NumberField(
      {{0, 4096}, 1, true, true, tr("cells"), false}, QStringLiteral("title.distance"));
  NumberField* distance = distance_;
  distance->setAccessibleName(tr("View distance"));
  distance->setToolTip(
      tr("View distance: chunks whose nearest cell is no farther than this are loaded.\n"
         "Accepted: 0 to 4,096 cells."));
  distance->setFixedHeight(look::kControl);
  distance->setValue(static_cast<double>(settings_.viewDistance()));
  distance->setReference(distance->value());
  connect(distance, &NumberField::edited, this, [this](double cells, bool) {
    settings_.setViewDistance(static_cast<qint64>(cells));
    emit viewDistanceChosen(static_cast<qint64>(cells));
  });
  connect(distance, &NumberField::refused, this, &TitleRow::refused);
  connect(distance, &NumberField::left, this, [this] {
    folded_->hide();
    emit leaveRequested();
  });
  distance->setFixedWidth(104);
  addFoldable(row, distance, tr("View distance"), {});
}

void TitleRow::setPictures(const acre::Recipe& recipe, const acre::Picture& shown,
    const std::string& field, const std::string& layer) {
  using acre::PictureKind;
  pictures_.clear();
  picture_->clear();
  acre::Picture plain = shown;
  plain.borders = false;
  const auto add = [&](const QString& text, const acre::Picture& picture) {
    pictures_.push_back(picture);
    picture_->addItem(text);
    if (picture == plain) picture_->setCurrentIndex(picture_->count() - 1);
  };
  add(tr("Composite"), {});
  if (recipe.biomes.on) {
    add(tr("Biome"), {PictureKind::Biome, {}, {}, false});
    add(tr("Uncovered"), {PictureKind::Uncovered, {}, {}, false});
    if (recipe.biomes.regions.on) {
      add(tr("Region"), {PictureKind::Region, {}, {}, false});
      add(tr("Border distance"), {PictureKind::Border, {}, {}, false});
    }
  }
  add(tr("Height"), {PictureKind::Height, {}, {}, false});
  if (recipe.biomes.on) add(tr("Base height"), {PictureKind::Base, {}, {}, false});
  if (acre::takesPart(recipe, acre::StageId::Water)) {
    add(tr("Water"), {PictureKind::Water, {}, {}, false});
    add(tr("Surface"), {PictureKind::Surface, {}, {}, false});
    add(tr("Drained area"), {PictureKind::Flow, {}, {}, false});
    add(tr("Basins"), {PictureKind::Basin, {}, {}, false});
  }
  add(tr("Material"), {PictureKind::Material, {}, {}, false});
  if (recipe.frame.blocks()) {
    const int64_t below = static_cast<int64_t>(recipe.frame.seaLevel) - 8;
    const acre::AxisBounds& y = recipe.frame.y;
    add(tr("Slice at a level"),
        {PictureKind::Slice, {}, {}, false,
            shown.kind == PictureKind::Slice ? shown.level
                                             : std::clamp(below, y.min, y.min + y.extent - 1)});
  }
  add(tr("Height, grey"), {PictureKind::Grey, {}, {}, false});
  add(tr("Slope"), {PictureKind::Slope, {}, {}, false});
  for (const acre::FieldRecipe* f : acre::fieldsOf(recipe)) {
    if (f == &recipe.heights) continue;
    const QString name = QString::fromStdString(f->name);
    add(acre::climateAxisOf(recipe, f->id) ? name : tr("Field %1").arg(name),
        {PictureKind::Field, f->id, {}, false});
  }
  if (acre::takesPart(recipe, acre::StageId::Objects))
    for (const acre::ObjectKind& kind : recipe.objects->kinds)
      if (kind.on && !kind.must)
        add(tr("Density of %1").arg(QString::fromStdString(kind.name)),
            {PictureKind::Density, kind.id, {}, false});
  if (const acre::FieldRecipe* f = acre::fieldOf(recipe, field))
    for (const acre::Layer& l : f->layers)
      if (l.id == layer && l.on)
        add(tr("Layer %1").arg(QString::fromStdString(l.name)),
            {PictureKind::Layer, field, layer, false});
  if (shown.kind == PictureKind::Layer && (shown.field != field || shown.layer != layer))
    add(tr("Layer %1").arg(QString::fromStdString(shown.layer)), plain);
}

void TitleRow::setName(const QString& name, const QString& file) {
  fullName_ = name;
  name_->setToolTip(
      name + QLatin1Char('\n') + (file.isEmpty() ? tr("Not saved in a file yet") : file));
  fit();
}

void TitleRow::setSeed(const QString& seed) {
  if (seed_->text() != seed) seed_->setText(seed);
  seed_->setModified(false);
  seed_->setCursorPosition(0);
  if (seed == current_) return;
  current_ = seed;
  history_.visit(seed);
  settings_.setSeeds(history_.seeds());
}

void TitleRow::roll() {
  QString seed;
  do {
    seed = QString::fromStdString(acre::rolledSeed(QRandomGenerator::system()->generate64()));
  } while (history_.contains(seed));
  emit seedChosen(seed);
  emit seedLeft();
}

void TitleRow::earlier() {
  if (const QString seed = history_.earlier(); !seed.isNull()) emit seedChosen(seed);
}

void TitleRow::later() {
  const QString seed = history_.later();
  if (seed.isNull()) return roll();
  emit seedChosen(seed);
  emit seedLeft();
}

void TitleRow::showHistory() {
  QMenu menu(this);
  const QStringList& seeds = history_.seeds();
  constexpr qsizetype kListed = 24;
  const qsizetype first = std::max<qsizetype>(0, seeds.size() - kListed);
  for (qsizetype i = seeds.size() - 1; i >= first; --i) {
    QAction* action =
        menu.addAction(seeds[i], this, [this, seed = seeds[i]] { emit seedChosen(seed); });
    action->setCheckable(true);
    action->setChecked(i == history_.place());
  }
  if (first > 0) menu.addAction(tr("%1 earlier ones: PgUp").arg(first))->setEnabled(false);
  menu.exec(seeds_->mapToGlobal(QPoint(0, seeds_->height())));
}

bool TitleRow::eventFilter(QObject* watched, QEvent* e) {
  if (watched != seed_ || e->type() != QEvent::KeyPress) return QWidget::eventFilter(watched, e);
  switch (const int key = static_cast<QKeyEvent*>(e)->key()) {
    case Qt::Key_Up:
    case Qt::Key_Down:
      if (const auto next =
              acre::neighbourSeed(seed_->text().toStdString(), key == Qt::Key_Up ? 1 : -1))
        emit seedChosen(QString::fromStdString(*next));
      return true;
    case Qt::Key_Escape:
      setSeed(current_);
      emit leaveRequested();
      return true;
    case Qt::Key_PageUp:
      return earlier(), true;
    case Qt::Key_PageDown:
      return later(), true;
    default:
      return QWidget::eventFilter(watched, e);
  }
}

}  // namespace app

#include "moc_title_row.cpp"
