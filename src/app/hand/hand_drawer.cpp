#include "app/hand/hand_drawer.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/edit/list_parts.h"
#include "app/edit/swatch.h"
#include "app/look/look.h"
#include "base/atomic_file.h"
#include "recipe/edits.h"
#include "world/world.h"

namespace app {

// ---- the list ----------------------------------------------------------------------------------

void HandModel::set(const acre::Recipe& recipe, std::vector<acre::Edit> cells) {
  beginResetModel();
  cells_ = std::move(cells);
  levels_ = recipe.frame.blocks();
  endResetModel();
  setNames(recipe);
}

void HandModel::setNames(const acre::Recipe& recipe) {
  std::map<std::string, Named> names = {{acre::kOpenId, {tr("Open"), {}}}};
  for (const acre::Material& m : recipe.materials)
    names[m.id] = {QString::fromStdString(m.name), m.colour};
  if (names == names_) return;
  names_ = std::move(names);
  if (!cells_.empty()) emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
}

int HandModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(cells_.size());
}

int HandModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : levels_ ? 4 : 3;
}

QVariant HandModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid()) return {};
  const acre::Edit& e = edit(index.row());
  const int column = !levels_ && index.column() > 0 ? index.column() + 1 : index.column();
  if (role == Qt::TextAlignmentRole && column < 3)
    return static_cast<int>(Qt::AlignRight | Qt::AlignVCenter);
  const bool swatched = role == Qt::DecorationRole && column == 3;
  if (role != Qt::DisplayRole && !swatched) return {};
  if (column < 3) return look::wholeNumber(column == 0 ? e.x : column == 1 ? e.y : e.z);
  const auto named = names_.find(e.material);
  if (swatched) {
    const bool coloured = named != names_.end() && named->second.colour;
    return coloured ? QVariant(swatch(*named->second.colour)) : QVariant();
  }
  return named == names_.end() ? tr("%1 (gone)").arg(QString::fromStdString(e.material))
                               : named->second.name;
}

QVariant HandModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  const int column = !levels_ && section > 0 ? section + 1 : section;
  const QString names[] = {
      QStringLiteral("x"), QStringLiteral("y"), QStringLiteral("z"), tr("made")};
  return names[column];
}

QString strikeName(bool cutting, size_t blocks) {
  if (blocks == 1) return cutting ? QObject::tr("Cut a block") : QObject::tr("Fill a block");
  const QString count = look::wholeNumber(static_cast<qint64>(blocks));
  return (cutting ? QObject::tr("Cut %1 blocks") : QObject::tr("Fill %1 blocks")).arg(count);
}

// ---- the drawer --------------------------------------------------------------------------------

HandDrawer::HandDrawer(
    Document& document, MapView& map, SectionView& section, Dialogs& dialogs, QWidget* parent)
    : QWidget(parent),
      document_(document),
      map_(map),
      section_(section),
      dialogs_(dialogs),
      courier_(std::make_shared<Courier<HandDrawer>>(this)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 4, 12, 12);
  column->setSpacing(8);
  headline_ = new QLabel;
  headline_->setObjectName(QStringLiteral("hand.headline"));
  headline_->setWordWrap(true);
  column->addWidget(headline_);

  buildBrush(column);
  connect(&section_, &SectionView::struck, this, &HandDrawer::strike);
  connect(&map_, &MapView::painted, this, [this](qint64 x0, qint64 z0, qint64 x1, qint64 z1) {
    paint({x0, z0}, {x1, z1});
  });
  connect(&map_, &MapView::paintingEnded, this, [this] {
    ended_ = !settled();
    if (!ended_) document_.endGesture();
  });

  buildTable(column);
  buildButtons(column);
  connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this,
      &HandDrawer::updateButtons);
  connect(&document_, &Document::recipeChanged, this, [this] {
    if (isVisible()) refresh();
  });
  refresh();
}

void HandDrawer::buildBrush(QVBoxLayout* column) {
  brushRow_ = new QWidget;
  auto* brushRow = new QHBoxLayout(brushRow_);
  brushRow->setContentsMargins(0, 0, 0, 0);
  brushRow->setSpacing(6);
  const auto tool = [&](const QString& text, const char* name, const QString& tip) {
    auto* button = new QToolButton;
    button->setText(text);
    button->setObjectName(QLatin1String(name));
    button->setCheckable(true);
    button->setFixedHeight(look::kControl);
    button->setToolTip(tip);
    button->setAccessibleName(tip);
    brushRow->addWidget(button);
    connect(button, &QToolButton::toggled, this, &HandDrawer::chooseTool);
    return button;
  };
  paint_ = tool(tr("Paint on the map"), "hand.paint",
      tr("While this is down, dragging on the map changes cells instead of moving it; "
         "the wheel still zooms."));
  cut_ = tool(
      tr("Cut"), "hand.cut", tr("While this is down, a click in the section takes blocks away."));
  fill_ = tool(
      tr("Fill"), "hand.fill", tr("While this is down, a click in the section puts blocks there."));
  connect(cut_, &QToolButton::toggled, this, [this](bool on) {
    if (on) fill_->setChecked(false);
  });
  connect(fill_, &QToolButton::toggled, this, [this](bool on) {
    if (on) cut_->setChecked(false);
  });
  material_ = new Choice;
  material_->setObjectName(QStringLiteral("hand.material"));
  material_->setAccessibleName(tr("Material to paint with"));
  material_->setToolTip(tr("What the brush makes of the cells"));
  brushRow->addWidget(material_, 1);
  brush_ = new NumberField({{0, 32}, 1, false, true, tr("radius")}, QStringLiteral("hand.brush"));
  brush_->setAccessibleName(tr("Radius of the brush"));
  brush_->setToolTip(
      tr("Cells around the one under the pointer; 0 is one cell.\n"
         "Accepted: 0 to 32."));
  brush_->setFixedWidth(92);
  brush_->setFixedHeight(look::kControl);
  brush_->setValue(1);
  brush_->setReference(1);
  connect(brush_, &NumberField::refused, this, &HandDrawer::refused);
  connect(brush_, &NumberField::left, this, [this] { map_.setFocus(); });
  brushRow->addWidget(brush_);
  column->addWidget(brushRow_);
}

void HandDrawer::buildTable(QVBoxLayout* column) {
  model_ = new HandModel(this);
  table_ = new QTableView;
  table_->setObjectName(QStringLiteral("hand.table"));
  table_->setAccessibleName(tr("Cells changed by hand"));
  table_->setModel(model_);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setShowGrid(false);
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(24);
  table_->horizontalHeader()->setStretchLastSection(true);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Interactive);
  table_->horizontalHeader()->setDefaultSectionSize(84);
  column->addWidget(table_, 1);
}

void HandDrawer::buildButtons(QVBoxLayout* column) {
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(6);
  const auto add = [&](const QString& text, const char* name, const QString& tip) {
    return parts::pushButton(buttons, text, name, tip);
  };
  goTo_ = add(tr("Go there"), "hand.goTo", tr("Goes to the chosen cell and asks why it is so"));
  erase_ = add(tr("Erase"), "hand.erase", tr("The chosen cells become again what they were"));
  export_ = add(tr("Export…"), "hand.export", tr("Writes the list as CSV: x, y, z, material"));
  eraseAll_ = add(tr("Erase all"), "hand.eraseAll", tr("All cells become again what they were"));
  column->addLayout(buttons);
  connect(goTo_, &QPushButton::clicked, this, [this] {
    const QModelIndex at = table_->currentIndex();
    if (!at.isValid()) return;
    const acre::Edit& e = model_->edit(at.row());
    emit goToRequested(e.x, e.y, e.z);
  });
  connect(table_, &QTableView::activated, goTo_, &QPushButton::click);
  connect(erase_, &QPushButton::clicked, this, [this] { erase(false); });
  connect(eraseAll_, &QPushButton::clicked, this, [this] { erase(true); });
  connect(export_, &QPushButton::clicked, this, &HandDrawer::exportList);
}

void HandDrawer::showEvent(QShowEvent*) {
  refresh();
}

HandDrawer::~HandDrawer() {
  courier_->close();
}

void HandDrawer::hideEvent(QHideEvent*) {
  for (QToolButton* tool : {paint_, cut_, fill_}) tool->setChecked(false);
}

void HandDrawer::chooseTool() {
  map_.setPainting(paint_->isChecked());
  section_.setStriking(cut_->isChecked() || fill_->isChecked());
}

void HandDrawer::refresh() {
  const acre::Recipe& recipe = document_.recipe();
  const bool blocks = recipe.frame.blocks();
  paint_->setVisible(!blocks);
  cut_->setVisible(blocks);
  fill_->setVisible(blocks);
  for (QToolButton* other : blocks ? std::vector{paint_} : std::vector{cut_, fill_})
    other->setChecked(false);
  offerMaterials(*material_, recipe);
  model_->setNames(recipe);
  listCells();
  const auto count = static_cast<qint64>(recipe.edits ? recipe.edits->size() : 0);
  const QString cells = count == 1 ? tr("1 cell") : tr("%1 cells").arg(look::wholeNumber(count));
  if (count == 0)
    headline_->setText(blocks ? tr("Nothing is changed by hand yet. Press Cut or Fill and click in "
                                   "the section, or use them in the walk view.")
                              : tr("Nothing is changed by hand yet. Press Paint on the map and "
                                   "drag over it, or use Fill in the walk view."));
  else if (recipe.edits->seed() != recipe.seed)
    headline_->setText(tr("%1, of seed %2. This world shows none of them: it has another seed.")
                           .arg(cells, QString::fromStdString(recipe.edits->seed())));
  else
    headline_->setText(
        tr("%1, kept beside the world's file and put into every chunk that holds one.").arg(cells));
  updateButtons();
}

/// Long lists are written out off the interface thread.
void HandDrawer::listCells() {
  constexpr size_t kAtOnce = 20'000;
  const acre::Recipe& recipe = document_.recipe();
  // Sets are shared by recipes whose cells are the same.
  if (shown_ && shown_ == recipe.edits) return;
  shown_ = recipe.edits;
  if (!shown_ || shown_->size() <= kAtOnce)
    return model_->set(recipe, shown_ ? shown_->all() : std::vector<acre::Edit>());
  document_.engine().executor().submit(
      acre::Priority::Statistics, [courier = courier_, edits = shown_] {
        auto cells = std::make_shared<std::vector<acre::Edit>>(edits->all());
        courier->deliver([edits, cells](HandDrawer& self) {
          if (self.shown_ != edits) return;
          self.model_->set(self.document_.recipe(), std::move(*cells));
          self.updateButtons();
        });
      });
}

void HandDrawer::updateButtons() {
  const bool chosen = table_->selectionModel()->hasSelection();
  goTo_->setEnabled(chosen);
  erase_->setEnabled(chosen);
  const acre::Edits& edits = document_.recipe().edits;
  eraseAll_->setEnabled(edits && !edits->empty());
  export_->setEnabled(model_->rowCount() > 0);
}

std::optional<acre::EditSet> HandDrawer::ownSet() {
  const acre::Recipe& recipe = document_.recipe();
  if (!recipe.edits || recipe.edits->empty()) return acre::EditSet(recipe.seed);
  if (recipe.edits->seed() == recipe.seed) return *recipe.edits;
  emit refused(
      tr("Cells were changed by hand in the world of seed %1. Go back to it, or erase them here.")
          .arg(QString::fromStdString(recipe.edits->seed())));
  return {};
}

void HandDrawer::strike(int64_t x, int64_t y, int64_t z) {
  const bool cutting = cut_->isChecked();
  const std::string material =
      cutting ? acre::kOpenId : material_->currentData().toString().toStdString();
  if (material.empty()) return emit refused(tr("Add a material to fill with, in Strata."));
  const auto radius = static_cast<int32_t>(brush_->value());
  document_.engine().executor().submit(acre::Priority::CoarseMap,
      [courier = courier_, world = document_.world(), x, y, z, radius, cutting, material] {
        const int32_t side = 2 * radius + 1;
        std::vector<acre::MaterialIndex> blocks(
            static_cast<size_t>(side) * static_cast<size_t>(side) * static_cast<size_t>(side));
        if (!world->sampleBlocks(
                {x - radius, y - radius, z - radius, 1, side, side, side}, blocks.data()))
          return;
        std::vector<acre::Edit> edits;
        size_t at = 0;
        for (int32_t dy = -radius; dy <= radius; ++dy)
          for (int32_t dz = -radius; dz <= radius; ++dz)
            for (int32_t dx = -radius; dx <= radius; ++dx, ++at) {
              if (dx * dx + dy * dy + dz * dz > radius * radius + radius) continue;
              if (blocks[at] == acre::kOutside || (cutting && blocks[at] == acre::kOpen)) continue;
              edits.push_back({x + dx, y + dy, z + dz, material});
            }
        courier->deliver([edits = std::move(edits), cutting](HandDrawer& self) {
          if (edits.empty())
            return emit self.refused(
                cutting ? tr("There is nothing to cut.") : tr("That is outside the world."));
          const auto own = self.ownSet();
          if (!own) return;
          acre::Recipe next = self.document_.recipe();
          next.edits = own->with(edits);
          self.document_.change(strikeName(cutting, edits.size()), next);
          self.document_.endGesture();
        });
      });
}

namespace {

/// The cells that a round brush covers on its way, row by row: of a disc moved along a line they
/// are one stretch.
std::vector<acre::Cell> cellsOf(
    acre::Cell from, acre::Cell to, int64_t radius, const acre::Rect& bounds) {
  const int64_t steps = std::max({std::abs(to.x - from.x), std::abs(to.z - from.z), int64_t{1}});
  const int64_t top = std::min(from.z, to.z) - radius, bottom = std::max(from.z, to.z) + radius;
  struct Stretch {
    int64_t first = INT64_MAX, last = INT64_MIN;
  };
  std::vector<Stretch> rows(static_cast<size_t>(bottom - top + 1));
  std::vector<int64_t> half;  // Of the disc, by distance from its middle.
  for (int64_t dz = 0; dz <= radius; ++dz) {
    int64_t dx = radius;
    while (dx * dx + dz * dz > radius * radius + radius) --dx;
    half.push_back(dx);
  }
  for (int64_t n = 0; n <= steps; ++n) {
    const acre::Cell at{from.x + (to.x - from.x) * n / steps, from.z + (to.z - from.z) * n / steps};
    for (int64_t dz = -radius; dz <= radius; ++dz) {
      Stretch& row = rows[static_cast<size_t>(at.z + dz - top)];
      const int64_t dx = half[static_cast<size_t>(std::abs(dz))];
      row.first = std::min(row.first, at.x - dx);
      row.last = std::max(row.last, at.x + dx);
    }
  }
  std::vector<acre::Cell> cells;
  for (size_t k = 0; k < rows.size(); ++k)
    for (int64_t x = rows[k].first; x <= rows[k].last; ++x)
      if (const acre::Cell cell{x, top + static_cast<int64_t>(k)}; bounds.contains(cell))
        cells.push_back(cell);
  return cells;
}

}  // namespace

void HandDrawer::paint(acre::Cell from, acre::Cell to) {
  const std::string material = material_->currentData().toString().toStdString();
  if (material.empty()) return emit refused(tr("Add a material to paint with, in Strata."));
  if (!ownSet()) return;
  constexpr int64_t kFarthest = 4096;  // Cells of one movement, however far out the map is.
  if (std::max(std::abs(to.x - from.x), std::abs(to.z - from.z)) > kFarthest)
    return emit refused(tr("Come nearer to paint: a stroke is too long."));
  strokes_.push_back({from, to, static_cast<int64_t>(brush_->value()), material});
  layStrokes();
}

/// All strokes that wait become one step, made off the interface thread.
void HandDrawer::layStrokes() {
  if (laying_ || strokes_.empty()) return;
  const auto own = ownSet();
  if (!own) return strokes_.clear();
  laying_ = true;
  const acre::Recipe& recipe = document_.recipe();
  document_.engine().executor().submit(acre::Priority::Compile,
      [courier = courier_, own = *own, base = recipe.edits, strokes = std::exchange(strokes_, {}),
          bounds = acre::boundsOf(recipe.frame), level = acre::editLevel(recipe)] {
        std::vector<acre::Edit> edits;
        for (const Stroke& stroke : strokes)
          for (const acre::Cell cell : cellsOf(stroke.from, stroke.to, stroke.radius, bounds))
            edits.push_back({cell.x, level, cell.z, stroke.material});
        auto painted = edits.empty() ? nullptr : own.with(edits);
        courier->deliver([painted, base, strokes](HandDrawer& self) {
          self.laying_ = false;
          if (self.document_.recipe().edits != base)  // Something came between: over that.
            self.strokes_.insert(self.strokes_.begin(), strokes.begin(), strokes.end());
          else if (!painted)
            emit self.refused(tr("That is outside the world's bounds."));
          else
            self.putPainted(painted);
          self.layStrokes();
          if (self.settled() && std::exchange(self.ended_, false)) self.document_.endGesture();
        });
      });
}

void HandDrawer::putPainted(const acre::Edits& painted) {
  acre::Recipe next = document_.recipe();
  next.edits = painted;
  document_.change(tr("Paint cells"), next, QStringLiteral("paint"));
}

void HandDrawer::erase(bool all) {
  acre::Recipe next = document_.recipe();
  if (!next.edits) return;
  if (all) {
    next.edits = nullptr;
  } else {
    std::vector<acre::Edit> back;
    for (const QModelIndex& row : table_->selectionModel()->selectedRows()) {
      acre::Edit e = model_->edit(row.row());
      e.material.clear();
      back.push_back(std::move(e));
    }
    next.edits = next.edits->with(back);
    if (next.edits->empty()) next.edits = nullptr;
  }
  document_.change(tr("Erase what was changed by hand"), next);
  document_.endGesture();
}

void HandDrawer::exportList() {
  const QString name = dialogs_.saveFile(this, tr("Export what was changed by hand"),
      tr("Tables (*.csv)"), QStringLiteral("by-hand.csv"));
  if (name.isEmpty()) return;
  std::string text = "x,y,z,material\n";
  for (int row = 0; row < model_->rowCount(); ++row) {
    const acre::Edit& e = model_->edit(row);
    text += std::to_string(e.x) + "," + std::to_string(e.y) + "," + std::to_string(e.z) + "," +
            e.material + "\n";
  }
  acre::Status written = acre::checkOutputs({name.toStdString()}, document_.inputs());
  if (written) written = acre::writeFile(name.toStdString(), text);
  if (!written) emit refused(QString::fromStdString(written.error().text()));
}

}  // namespace app

#include "moc_hand_drawer.cpp"
