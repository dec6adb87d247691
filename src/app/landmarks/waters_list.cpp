#include "app/landmarks/waters_list.h"

#include <QKeyEvent>
#include <algorithm>
#include <cmath>

#include "app/edit/list_parts.h"
#include "recipe/stages.h"

namespace app {
namespace {

QString whole(double v) {
  return look::wholeNumber(std::llround(v));
}
QString tenths(double v) {
  return look::number(std::round(v * 10) / 10);
}

QString endText(const acre::RiverFigures& r) {
  const QString place = QStringLiteral("%1,%2").arg(r.into.i).arg(r.into.j);
  switch (r.end) {
    case acre::RiverEnd::Sea:
      return QObject::tr("the sea");
    case acre::RiverEnd::Lake:
      return QObject::tr("lake L%1").arg(place);
    case acre::RiverEnd::ClosedLake:
      return QObject::tr("closed L%1").arg(place);
    case acre::RiverEnd::River:
      return QObject::tr("a river");
    case acre::RiverEnd::Nowhere:
      return QObject::tr("sink S%1").arg(place);
  }
  return {};
}

}  // namespace

// ---- the list ----------------------------------------------------------------------------------

void WatersModel::set(std::shared_ptr<const Found> found, bool lakes) {
  beginResetModel();
  found_ = std::move(found);
  lakes_ = lakes;
  endResetModel();
}

QString WatersModel::name(int row) const {
  return QString::fromStdString(lakes_ ? lake(row).name() : river(row).name());
}

int WatersModel::rowCount(const QModelIndex& parent) const {
  if (parent.isValid() || !found_) return 0;
  return static_cast<int>(lakes_ ? found_->lakes.size() : found_->rivers.size());
}

int WatersModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : kColumns;
}

std::pair<QVariant, QString> WatersModel::told(int row, int column) const {
  const auto number = [](double v, const QString& text) { return std::pair(QVariant(v), text); };
  if (column == 0) return {name(row), name(row)};
  if (lakes_) {
    const acre::LakeFigures& l = lake(row);
    switch (column) {
      case 1:
        return number(l.distance, whole(l.distance));
      case 2:
        return number(l.level, look::wholeNumber(l.level));
      case 3:
        return number(l.depth, tenths(l.depth));
      case 4:
        return number(l.bricks, look::wholeNumber(l.bricks));
      default:
        return number(l.closed, l.closed ? tr("none") : tr("open"));
    }
  }
  const acre::RiverFigures& r = river(row);
  switch (column) {
    case 1:
      return number(r.distance, whole(r.distance));
    case 2:
      return number(r.length, whole(r.length));
    case 3:
      return number(r.drop, tenths(r.drop));
    case 4:
      return number(r.width, tenths(r.width));
    default:
      return number(static_cast<double>(r.end), endText(r));
  }
}

QVariant WatersModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid()) return {};
  const int column = index.column();
  if (role == Qt::TextAlignmentRole && column > 0 && column + 1 < kColumns)
    return static_cast<int>(Qt::AlignRight | Qt::AlignVCenter);
  if (role == Qt::UserRole) return told(index.row(), column).first;
  return role == Qt::DisplayRole ? QVariant(told(index.row(), column).second) : QVariant();
}

QVariant WatersModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return {};
  const QString rivers[kColumns] = {
      tr("River"), tr("away"), tr("length"), tr("drop"), tr("wide"), tr("ends in")};
  const QString lakes[kColumns] = {
      tr("Lake"), tr("away"), tr("level"), tr("depth"), tr("bricks"), tr("outlet")};
  const QString riverTips[kColumns] = {tr("Named by the brick of its spring."),
      tr("Cells from the viewpoint to the spring."), tr("Cells from node to node, lakes too."),
      tr("Cells from the spring's surface down to the end's."), tr("The largest width in cells."),
      tr("At a confluence the larger river goes on, the others end.")};
  const QString lakeTips[kColumns] = {tr("Named by the brick of its deepest place."),
      tr("Cells from the viewpoint to the deepest place."), tr("Of its surface, in cells."),
      tr("At the deepest place, in cells."), tr("That it reaches over, of 32 × 28 cells each."),
      tr("Whether a river leaves it.")};
  if (role == Qt::ToolTipRole) return (lakes_ ? lakeTips : riverTips)[section];
  return role == Qt::DisplayRole ? QVariant((lakes_ ? lakes : rivers)[section]) : QVariant();
}

// ---- the page ----------------------------------------------------------------------------------

WatersList::WatersList(Document& document, MapView& map, QWidget* parent)
    : QWidget(parent),
      document_(document),
      map_(map),
      courier_(std::make_shared<Courier<WatersList>>(this)) {
  QVBoxLayout* column = parts::pageColumn(this);
  buildHead(column);
  headline_ = parts::headline(column, "waters.headline");
  buildTable(column);
  buildButtons(column);
  about_ = parts::headline(column, "waters.about");
  about_->setFont(look::font(look::Type::Caption));
  list();
}

void WatersList::buildHead(QVBoxLayout* column) {
  QHBoxLayout* row = parts::row(column);
  kind_ = new Choice;
  kind_->setObjectName(QStringLiteral("waters.kind"));
  kind_->setAccessibleName(tr("Rivers or lakes"));
  kind_->addItems({tr("Rivers"), tr("Lakes")});
  connect(kind_, &Choice::activated, this, &WatersList::list);
  row->addWidget(kind_);
  row->addWidget(new QLabel(tr("within")));
  within_ = parts::within("waters.within", {500, 1000, 2000, 4000, 8000}, 2);
  connect(within_, &Choice::activated, this, &WatersList::search);
  row->addWidget(within_);
  row->addStretch(1);
  connect(parts::fromHere(row, "waters.again"), &QPushButton::clicked, this, &WatersList::search);
}

void WatersList::buildTable(QVBoxLayout* column) {
  model_ = new WatersModel(this);
  sorted_ = new QSortFilterProxyModel(this);
  sorted_->setSourceModel(model_);
  sorted_->setSortRole(Qt::UserRole);
  table_ = new QTableView;
  parts::dress(*table_, "waters.table", tr("Rivers or lakes"));
  table_->setModel(sorted_);
  table_->setSortingEnabled(true);
  table_->sortByColumn(2, Qt::DescendingOrder);
  QHeaderView* header = table_->horizontalHeader();
  header->setSectionResizeMode(QHeaderView::Fixed);
  header->setSectionResizeMode(0, QHeaderView::Stretch);
  constexpr int kWidths[WatersModel::kColumns] = {0, 62, 66, 62, 62, 98};
  for (int k = 1; k < WatersModel::kColumns; ++k) table_->setColumnWidth(k, kWidths[k]);
  connect(
      table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &WatersList::choose);
  connect(table_, &QTableView::activated, this, &WatersList::goThere);
  column->addWidget(table_, 1);
}

void WatersList::buildButtons(QVBoxLayout* column) {
  QHBoxLayout* row = parts::row(column);
  goTo_ = parts::pushButton(
      row, tr("Go there"), "waters.goTo", tr("The map at the spring, or at the lake (Enter)"));
  walk_ = parts::pushButton(row, tr("Follow"), "waters.follow",
      tr("In the walk view, downstream over the water; any key stops (F)"));
  auto* command = parts::pushButton(
      row, tr("Command"), "waters.command", tr("Copies the line that lists the same"));
  row->addStretch(1);
  connect(goTo_, &QPushButton::clicked, this, &WatersList::goThere);
  connect(walk_, &QPushButton::clicked, this, [this] {
    if (profile_) emit walkRequested(profile_);
  });
  connect(command, &QPushButton::clicked, this, [this] {
    emit commandRequested(QStringLiteral("%1 --near %2,%3 --within %4")
                              .arg(lakes() ? QStringLiteral("--lakes") : QStringLiteral("--rivers"))
                              .arg(from_.x)
                              .arg(from_.z)
                              .arg(within_->currentData().toString()));
  });
}

WatersList::~WatersList() {
  courier_->close();
  stop_.request_stop();
  measureStop_.request_stop();
}

void WatersList::refresh() {
  if (isVisible() && searched_ != document_.world()) search();
}

void WatersList::showEvent(QShowEvent*) {
  if (searched_ != document_.world())
    search();
  else
    choose();
}

/// A river stays until it is sent away from its profile; a lake has none.
void WatersList::hideEvent(QHideEvent*) {
  if (lakes()) emit riverChosen(nullptr, {});
}

void WatersList::keyPressEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_F && walk_->isEnabled()) return walk_->click();
  QWidget::keyPressEvent(e);
}

void WatersList::search() {
  stop_.request_stop();
  stop_ = {};
  searched_ = document_.world();
  from_ = map_.viewpoint().cell;
  searching_ = true;
  headline_->setText(
      tr("Searching %1 cells around x %2 z %3…")
          .arg(within_->currentText(), look::wholeNumber(from_.x), look::wholeNumber(from_.z)));
  const int64_t cells = within_->currentData().toLongLong();
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, world = searched_, from = from_, cells, number = ++request_,
          stop = stop_.get_token()] {
        auto rivers = acre::findRivers(*world, from, cells, stop);
        auto lakes = acre::findLakes(*world, from, cells, stop);
        if (stop.stop_requested()) return;
        auto found = std::make_shared<WatersModel::Found>();
        QString fault;
        if (rivers && lakes)
          *found = {std::move(*rivers), std::move(*lakes)};
        else
          fault = QString::fromStdString((rivers ? lakes.error() : rivers.error()).text());
        courier->deliver([found, fault, number](WatersList& self) {
          if (number != self.request_) return;
          self.searching_ = false;
          self.found_ = found;
          self.fault_ = fault;
          self.list();
        });
      });
}

/// Shows what was found of the kind that is asked for, and keeps the chosen one if it is there.
void WatersList::list() {
  const int before = chosen();
  const QString kept = before < 0 ? QString() : model_->name(before);
  model_->set(found_, lakes());
  const int count = model_->rowCount();
  const QString within = within_->currentText();
  const acre::Recipe& recipe = document_.recipe();
  if (!searching_)
    headline_->setText(
        !fault_.isEmpty() ? fault_
        : !acre::takesPart(recipe, acre::StageId::Water)
            ? acre::defOf(acre::StageId::Water).isOf(recipe.frame.kind)
                  ? tr("Water is off. Switch it on in the stage Water.")
                  : tr("Worlds of this kind have no rivers.")
        : count == 0
            ? (lakes() ? tr("No lake within %1.") : tr("No river springs within %1.")).arg(within)
        : lakes() ? tr("%1 lakes within %2").arg(look::wholeNumber(count), within)
                  : tr("%1 rivers spring within %2").arg(look::wholeNumber(count), within));
  for (int row = 0; row < count && !kept.isEmpty(); ++row)
    if (model_->name(row) == kept) {
      const int shown = sorted_->mapFromSource(model_->index(row, 0)).row();
      table_->selectRow(shown);  // Which chooses it.
    }
  if (chosen() < 0) choose();
}

int WatersList::chosen() const {
  const QModelIndexList rows = table_->selectionModel()->selectedRows();
  return rows.isEmpty() ? -1 : sorted_->mapToSource(rows.front()).row();
}

void WatersList::goThere() {
  const int row = chosen();
  if (row < 0) return;
  const acre::Cell at = lakes() ? model_->lake(row).bottom : model_->river(row).source;
  emit goToRequested(at.x, at.z);
}

void WatersList::choose() {
  const int row = chosen();
  goTo_->setEnabled(row >= 0);
  walk_->setEnabled(false);
  about_->clear();
  profile_.reset();
  measureStop_.request_stop();
  ++measureRequest_;
  measuring_ = false;
  if (!isVisible()) return;
  if (row < 0 || lakes()) emit riverChosen(nullptr, {});
  if (row < 0) return;
  if (lakes()) {
    const acre::LakeFigures& l = model_->lake(row);
    about_->setText(
        tr("%1 bricks drain into it; %2")
            .arg(look::wholeNumber(l.area),
                l.closed ? tr("no river leaves it")
                         : tr("its river leaves at x %1 z %2")
                               .arg(look::wholeNumber(l.outlet.x), look::wholeNumber(l.outlet.z))));
    return emit lakeChosen(l.bottom.x, l.bottom.z, model_->name(row));
  }
  const acre::RiverFigures& r = model_->river(row);
  about_->setText(
      tr("%1 bricks drain through its end; %2 rivers join it, it crosses %3 lakes, and "
         "winds %4 times as far as the crow flies")
          .arg(look::wholeNumber(r.area))
          .arg(r.tributaries)
          .arg(r.lakes)
          .arg(r.sinuosity, 0, 'f', 2));
  measure(r);
}

/// Its course as it is cut, off the interface thread.
void WatersList::measure(const acre::RiverFigures& river) {
  measureStop_ = {};
  measuring_ = true;
  document_.engine().executor().submit(acre::Priority::Statistics, measureStop_.get_token(),
      [courier = courier_, world = searched_, river, number = measureRequest_,
          stop = measureStop_.get_token()] {
        auto made = acre::profileOf(*world, river, stop);
        if (stop.stop_requested()) return;
        std::shared_ptr<const acre::RiverProfile> profile;
        if (made) profile = std::make_shared<const acre::RiverProfile>(std::move(*made));
        courier->deliver(
            [profile, number, name = QString::fromStdString(river.name())](WatersList& self) {
              if (number != self.measureRequest_) return;
              self.measuring_ = false;
              self.profile_ = profile;
              self.walk_->setEnabled(profile != nullptr);
              emit self.riverChosen(profile, name);
            });
      });
}

}  // namespace app

#include "moc_waters_list.cpp"
