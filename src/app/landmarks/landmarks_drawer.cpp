#include "app/landmarks/landmarks_drawer.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/edit/list_parts.h"
#include "recipe/cave_recipe.h"
#include "recipe/stages.h"

namespace app {
namespace {

QString bearing(double degrees) {
  const QString names[] = {QObject::tr("N"), QObject::tr("NE"), QObject::tr("E"), QObject::tr("SE"),
      QObject::tr("S"), QObject::tr("SW"), QObject::tr("W"), QObject::tr("NW")};
  return names[static_cast<size_t>((degrees + 22.5) / 45) % 8];
}

QString kindName(acre::PassageKind kind) {
  switch (kind) {
    case acre::PassageKind::Main:
      return QObject::tr("main passage");
    case acre::PassageKind::Arm:
      return QObject::tr("arm");
    case acre::PassageKind::Own:
      return QObject::tr("own passage");
    case acre::PassageKind::Shaft:
      return QObject::tr("shaft");
  }
  return {};
}

/// Sorts by numbers, and shows those with a mouth alone if asked to.
class Sorted : public QSortFilterProxyModel {
 public:
  using QSortFilterProxyModel::QSortFilterProxyModel;
  bool mouthed = false;
  void filter(bool on) {
    mouthed = on;
    invalidateFilter();
  }

 protected:
  bool filterAcceptsRow(int row, const QModelIndex&) const override {
    if (!mouthed) return true;
    const auto* model = static_cast<const LandmarksModel*>(sourceModel());
    return model->row(row).found.system->mouth;
  }
};

}  // namespace

// ---- the list ----------------------------------------------------------------------------------

void LandmarksModel::set(std::vector<Row> rows) {
  beginResetModel();
  rows_ = std::move(rows);
  endResetModel();
}

void LandmarksModel::setFigures(int row, acre::SystemFigures figures) {
  rows_[static_cast<size_t>(row)].figures = std::move(figures);
  emit dataChanged(index(row, 0), index(row, kColumns - 1));
}

int LandmarksModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(rows_.size());
}

int LandmarksModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(kColumns);
}

QVariant LandmarksModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid()) return {};
  const Row& row = rows_[static_cast<size_t>(index.row())];
  const auto& f = row.figures;
  if (role == Qt::TextAlignmentRole && index.column() != Name)
    return static_cast<int>(Qt::AlignRight | Qt::AlignVCenter);
  const bool sorting = role == Qt::UserRole;
  if (role != Qt::DisplayRole && !sorting) return {};
  const auto number = [&](const std::optional<double>& v, int digits) -> QVariant {
    if (sorting) return v.value_or(-1);
    return v ? QString::number(*v, 'f', digits) : QStringLiteral("…");
  };
  const auto of = [&](auto member) {
    return f ? std::optional(static_cast<double>((*f).*member)) : std::nullopt;
  };
  switch (index.column()) {
    case Name:
      return row.name;
    case Away:
      return sorting
                 ? QVariant(row.found.distance)
                 : QStringLiteral("%1 %2").arg(look::wholeNumber(std::llround(row.found.distance)),
                       bearing(row.found.bearing));
    case Length:
      return number(of(&acre::SystemFigures::length), 0);
    case Mouths:
      return number(of(&acre::SystemFigures::mouths), 0);
    case Ends:
      return number(of(&acre::SystemFigures::deadEnds), 0);
    default:
      return number(of(&acre::SystemFigures::straightness), 2);
  }
}

QVariant LandmarksModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return {};
  const QString names[kColumns] = {
      tr("System"), tr("away"), tr("length"), tr("mouths"), tr("ends"), tr("straight")};
  const QString tips[kColumns] = {tr("The tunnels' id and the square that the system belongs to."),
      tr("Cells from the viewpoint to the site, and in which direction."),
      tr("Cells along the centre lines of all passages."), tr("Separate openings to the surface."),
      tr("Ends of passages that lead nowhere else."),
      tr("Distance of a passage's ends over its length, on average: 1 is a straight line.")};
  if (role == Qt::ToolTipRole) return tips[section];
  return role == Qt::DisplayRole ? QVariant(names[section]) : QVariant();
}

// ---- the profile -------------------------------------------------------------------------------

WidthProfile::WidthProfile(QWidget* parent) : QWidget(parent) {
  setAccessibleName(tr("Widths along the passages"));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void WidthProfile::set(std::optional<acre::SystemFigures> figures) {
  figures_ = std::move(figures);
  updateGeometry();
  update();
}

QSize WidthProfile::sizeHint() const {
  return {300, figures_ ? static_cast<int>(figures_->passages.size()) * 44 : 0};
}

void WidthProfile::paintEvent(QPaintEvent*) {
  if (!figures_) return;
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const look::Tokens& t = look::tokens();
  double longest = 1, widest = 1;
  for (const acre::PassageFigures& f : figures_->passages) {
    longest = std::max(longest, f.length);
    for (const acre::WidthSample& s : f.widths) widest = std::max(widest, s.width);
  }
  const double across = width() - 8;
  int top = 0;
  for (const acre::PassageFigures& f : figures_->passages) {
    p.setFont(look::font(look::Type::Caption));
    p.setPen(t.ink);
    p.drawText(QRectF(0, top, width(), 16), Qt::AlignVCenter,
        tr("%1 · %2 cells · straight %3 · round %4")
            .arg(kindName(f.kind))
            .arg(f.length, 0, 'f', 0)
            .arg(f.straightness, 0, 'f', 2)
            .arg(f.roundness, 0, 'f', 2));
    const double middle = top + 29, scale = 11 / std::max(1.0, widest / 2);
    // The passage as a ribbon as wide as it is open, and where it is too wide in bars.
    QPolygonF above, below;
    for (const acre::WidthSample& s : f.widths) {
      const double x = 2 + s.along / longest * across;
      above << QPointF(x, middle - s.width / 2 * scale);
      below.prepend(QPointF(x, middle + s.width / 2 * scale));
    }
    QPolygonF ribbon = above + below;
    QColor fill = t.ink;
    fill.setAlphaF(0.12F);
    p.setBrush(fill);
    p.setPen(QPen(t.ink, 1));
    p.drawPolygon(ribbon);
    p.setPen(cavePen(f.kind, t.ink, 1.25));
    if (!f.widths.empty())
      p.drawLine(QPointF(2 + f.widths.front().along / longest * across, middle),
          QPointF(2 + f.widths.back().along / longest * across, middle));
    for (const acre::WidthSample& s : f.widths) {
      if (!s.tooWide) continue;
      const double x = 2 + s.along / longest * across;
      p.setPen(QPen(t.ochre, 2));
      p.drawLine(QPointF(x, middle - 13), QPointF(x, middle + 13));
    }
    top += 44;
  }
}

// ---- the drawer --------------------------------------------------------------------------------

LandmarksDrawer::LandmarksDrawer(Document& document, MapView& map, QWidget* parent)
    : QWidget(parent),
      document_(document),
      map_(map),
      courier_(std::make_shared<Courier<LandmarksDrawer>>(this)) {
  auto* outer = new QVBoxLayout(this);
  outer->setContentsMargins(12, 4, 12, 12);
  outer->setSpacing(8);
  systems_ = new QWidget;
  buildPages(outer, systems_);
  connect(spaces_, &SpacesList::commandRequested, this, &LandmarksDrawer::commandRequested);
  connect(waters_, &WatersList::commandRequested, this, &LandmarksDrawer::commandRequested);
  connect(objects_, &ObjectsList::commandRequested, this, &LandmarksDrawer::commandRequested);
  auto* column = new QVBoxLayout(systems_);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(8);
  buildFilters(column);
  headline_ = new QLabel;
  headline_->setObjectName(QStringLiteral("landmarks.headline"));
  headline_->setWordWrap(true);
  column->addWidget(headline_);

  buildTable(column);
  buildButtons(column);
  about_ = new QLabel;
  about_->setObjectName(QStringLiteral("landmarks.about"));
  about_->setWordWrap(true);
  about_->setFont(look::font(look::Type::Caption));
  column->addWidget(about_);
  profile_ = new WidthProfile;
  profile_->setObjectName(QStringLiteral("landmarks.profile"));
  column->addWidget(profile_);
}

void LandmarksDrawer::buildPages(QVBoxLayout* outer, QWidget* systems) {
  auto* row = new QHBoxLayout;
  row->setSpacing(0);
  spaces_ = new SpacesList(document_, map_);
  waters_ = new WatersList(document_, map_);
  objects_ = new ObjectsList(document_, map_);
  const auto page = [&](const QString& text, const char* name, QWidget* shown) {
    auto* button = new QToolButton;
    button->setText(text);
    button->setObjectName(QLatin1String(name));
    button->setCheckable(true);
    button->setChecked(shown == systems);
    button->setAutoExclusive(true);
    button->setFixedHeight(look::kControl);
    row->addWidget(button);
    tabs_.push_back(button);
    connect(button, &QToolButton::clicked, this, [this] { picked_ = true; });
    connect(button, &QToolButton::toggled, this, [this, shown](bool on) {
      if (on) showPage(shown);
    });
  };
  page(tr("Tunnel systems"), "landmarks.systems", systems);
  page(tr("Open spaces"), "landmarks.spaces", spaces_);
  page(tr("Rivers and lakes"), "landmarks.waters", waters_);
  page(tr("Objects"), "landmarks.objects", objects_);
  row->addStretch(1);
  outer->addLayout(row);
  for (QWidget* one : pages()) {
    outer->addWidget(one, 1);
    one->setVisible(one == systems);
  }
}

/// Until somebody picks a page: the first of which the world has something.
void LandmarksDrawer::openFitting() {
  if (picked_) return;
  const acre::Recipe& recipe = document_.recipe();
  const auto part = [&](acre::StageId stage) { return acre::takesPart(recipe, stage); };
  const bool caves = part(acre::StageId::Caves);
  const bool has[] = {caves && !recipe.caves->tunnels.empty(),
      caves && recipe.frame.kind != acre::WorldKind::Overland, part(acre::StageId::Water),
      part(acre::StageId::Objects)};
  const auto first = std::find(std::begin(has), std::end(has), true);
  if (first != std::end(has)) tabs_[static_cast<size_t>(first - std::begin(has))]->setChecked(true);
}

/// The others first: what they drew goes.
void LandmarksDrawer::showPage(QWidget* page) {
  for (QWidget* one : pages())
    if (one != page) one->hide();
  page->show();
}

void LandmarksDrawer::buildFilters(QVBoxLayout* column) {
  auto* filters = new QHBoxLayout;
  filters->setSpacing(6);
  filters->addWidget(new QLabel(tr("Caves within")));
  distance_ = parts::within("landmarks.within", {500, 1000, 2000, 4000, 8000}, 2);
  connect(distance_, &Choice::activated, this, &LandmarksDrawer::search);
  filters->addWidget(distance_);
  mouthed_ = new Tick(tr("with a mouth"));
  mouthed_->setObjectName(QStringLiteral("landmarks.mouthed"));
  filters->addWidget(mouthed_);
  drawn_ = new Tick(tr("lines"));
  drawn_->setObjectName(QStringLiteral("landmarks.lines"));
  drawn_->setToolTip(
      tr("Centre lines on map, section and walk view; with the drawer closed the chosen one's."));
  drawn_->setChecked(true);
  connect(drawn_, &Tick::toggled, this, &LandmarksDrawer::showLines);
  filters->addWidget(drawn_);
  filters->addStretch(1);
  connect(parts::fromHere(filters, "landmarks.again"), &QPushButton::clicked, this,
      &LandmarksDrawer::search);
  column->addLayout(filters);
}

void LandmarksDrawer::buildTable(QVBoxLayout* column) {
  model_ = new LandmarksModel(this);
  auto* sorted = new Sorted(this);
  sorted_ = sorted;
  sorted_->setSourceModel(model_);
  sorted_->setSortRole(Qt::UserRole);
  connect(mouthed_, &Tick::toggled, this, [this, sorted](bool on) {
    sorted->filter(on);
    showLines();
  });
  table_ = new QTableView;
  parts::dress(*table_, "landmarks.table", tr("Cave systems"));
  table_->setModel(sorted_);
  table_->setSortingEnabled(true);
  table_->sortByColumn(LandmarksModel::Away, Qt::AscendingOrder);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
  table_->horizontalHeader()->setSectionResizeMode(LandmarksModel::Name, QHeaderView::Stretch);
  table_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  const int widths[LandmarksModel::kColumns] = {0, 74, 56, 62, 46, 68};
  for (int c = 1; c < LandmarksModel::kColumns; ++c) table_->setColumnWidth(c, widths[c]);
  table_->setMinimumHeight(120);
  connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this,
      &LandmarksDrawer::choose);
  connect(table_, &QTableView::activated, this, [this] { goTo_->click(); });
  column->addWidget(table_, 1);
}

void LandmarksDrawer::buildButtons(QVBoxLayout* column) {
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(6);
  const auto button = [&](const QString& text, const char* name, const QString& tip) {
    auto* b = parts::pushButton(buttons, text, name, tip);
    b->setEnabled(false);
    return b;
  };
  goTo_ =
      button(tr("Go there"), "landmarks.goTo", tr("The map at the site, the line A–B too (Enter)"));
  walk_ = button(tr("Walk in"), "landmarks.walk",
      tr("Into the walk view inside the system, with the lamp (Shift+Enter)"));
  follow_ = button(tr("Follow"), "landmarks.follow",
      tr("Along the centre line of the main passage; any key stops (F)"));
  auto* command = new QPushButton(tr("Command"));
  command->setObjectName(QStringLiteral("landmarks.command"));
  command->setToolTip(tr("Copies the line that lists the same"));
  buttons->addWidget(command);
  buttons->addStretch(1);
  column->addLayout(buttons);
  connect(goTo_, &QPushButton::clicked, this, [this] {
    if (const auto found = chosen()) emit goToRequested(found->system->x, found->system->z);
  });
  connect(walk_, &QPushButton::clicked, this, [this] {
    if (const auto found = chosen()) emit walkRequested(found->system, false);
  });
  connect(follow_, &QPushButton::clicked, this, [this] {
    if (const auto found = chosen()) emit walkRequested(found->system, true);
  });
  connect(command, &QPushButton::clicked, this, [this] {
    emit commandRequested(
        QStringLiteral("--near %1,%2 --within %3").arg(from_.x).arg(from_.z).arg(within()));
  });
}

LandmarksDrawer::~LandmarksDrawer() {
  courier_->close();
  stop_.request_stop();
}

QString LandmarksDrawer::within() const {
  return distance_->currentData().toString();
}

void LandmarksDrawer::refresh() {
  spaces_->refresh();
  waters_->refresh();
  objects_->refresh();
  if (isVisible() && searched_ != document_.world()) search();
}

void LandmarksDrawer::showEvent(QShowEvent*) {
  openFitting();
  if (searched_ != document_.world())
    search();
  else
    showLines();
}

void LandmarksDrawer::hideEvent(QHideEvent*) {
  // The chosen one alone stays drawn.
  if (!lines_ || lines_->chosen < 0 || !drawn_->isChecked()) return emit linesChanged(nullptr);
  auto kept = std::make_shared<CaveLines>();
  kept->systems = {lines_->systems[static_cast<size_t>(lines_->chosen)]};
  kept->chosen = 0;
  emit linesChanged(kept);
}

void LandmarksDrawer::keyPressEvent(QKeyEvent* e) {
  if ((e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter) &&
      (e->modifiers() & Qt::ShiftModifier))
    return walk_->click();
  if (e->key() == Qt::Key_F) return follow_->click();
  if (e->key() == Qt::Key_Escape) return emit backRequested();
  QWidget::keyPressEvent(e);
}

void LandmarksDrawer::search() {
  stop_.request_stop();
  stop_ = {};
  searched_ = document_.world();
  from_ = map_.viewpoint().cell;
  const int64_t cells = distance_->currentData().toLongLong();
  searching_ = true;
  headline_->setText(
      tr("Searching %1 cells around x %2 z %3…")
          .arg(look::wholeNumber(cells), look::wholeNumber(from_.x), look::wholeNumber(from_.z)));
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, world = searched_, from = from_, cells, number = ++request_,
          stop = stop_.get_token()] {
        auto found = acre::findSystems(*world, from, cells, stop, false);
        if (stop.stop_requested()) return;
        std::vector<LandmarksModel::Row> rows;
        if (found)
          for (acre::FoundSystem& one : *found)
            rows.push_back({one, QString::fromStdString(one.name(*world)), {}});
        const QString fault = found ? QString() : QString::fromStdString(found.error().text());
        courier->deliver([rows, fault, number, cells](LandmarksDrawer& self) {
          if (number != self.request_) return;
          const auto kept = self.chosen();
          self.model_->set(rows);
          const acre::Recipe& recipe = self.document_.recipe();
          const QString within = look::wholeNumber(cells);
          self.headline_->setText(
              !fault.isEmpty()    ? fault
              : !recipe.caves->on ? tr("Caves are off. Switch them on in the stage Caves.")
              : recipe.caves->tunnels.empty()
                  ? tr("This world has no tunnel systems. Add them in the stage Caves.")
              : rows.empty() ? tr("No cave within %1 cells. Search farther.").arg(within)
              : rows.size() == 1
                  ? tr("One cave system within %1 cells").arg(within)
                  : tr("%1 cave systems within %2 cells, %3 of them with a mouth")
                        .arg(look::wholeNumber(static_cast<qint64>(rows.size())), within)
                        .arg(std::count_if(rows.begin(), rows.end(),
                            [](const auto& row) { return row.found.system->mouth; })));
          if (rows.empty()) self.searching_ = false;
          if (kept)  // The same one, if it is still there.
            for (int row = 0; row < self.model_->rowCount(); ++row)
              if (self.model_->row(row).name == QString::fromStdString(kept->name(*self.searched_)))
                self.table_->selectRow(
                    self.sorted_->mapFromSource(self.model_->index(row, 0)).row());
          self.choose();
        });
        for (size_t k = 0; k < rows.size() && !stop.stop_requested(); ++k) {
          auto figures = acre::figuresOf(*world, rows[k].found);
          const bool last = k + 1 == rows.size();
          courier->deliver([k, number, last, figures = std::move(figures)](LandmarksDrawer& self) {
            if (number != self.request_) return;
            self.model_->setFigures(static_cast<int>(k), figures);
            if (last) self.searching_ = false;
            const QModelIndexList rows = self.table_->selectionModel()->selectedRows();
            if (!rows.isEmpty() &&
                self.sorted_->mapToSource(rows.front()).row() == static_cast<int>(k))
              self.choose();
          });
        }
      });
}

std::optional<acre::FoundSystem> LandmarksDrawer::chosen() const {
  const QModelIndexList rows = table_->selectionModel()->selectedRows();
  if (rows.isEmpty()) return {};
  return model_->row(sorted_->mapToSource(rows.front()).row()).found;
}

void LandmarksDrawer::choose() {
  const QModelIndexList rows = table_->selectionModel()->selectedRows();
  const bool any = !rows.isEmpty();
  goTo_->setEnabled(any);
  const bool blocks = document_.recipe().frame.blocks();
  walk_->setEnabled(any && blocks);
  follow_->setEnabled(any && blocks);
  about_->clear();
  profile_->set({});
  if (any) {
    const LandmarksModel::Row& row = model_->row(sorted_->mapToSource(rows.front()).row());
    if (row.figures && blocks) {
      const acre::SystemFigures& f = *row.figures;
      about_->setText(
          tr("%7 cells below the surface; %1 blocks dug, %2 of them under water, y %3 to %4; %5; "
             "%6 % "
             "more than twice as wide as bored")
              .arg(look::wholeNumber(static_cast<qint64>(f.volume)),
                  look::wholeNumber(static_cast<qint64>(f.flooded)), look::wholeNumber(f.lowest),
                  look::wholeNumber(f.highest),
                  f.pieces == 1 ? tr("all connected") : tr("in %1 parts").arg(f.pieces))
              .arg(f.overlap * 100, 0, 'f', 1)
              .arg(f.depth, 0, 'f', 0));
      profile_->set(f);
    }
  }
  showLines();
}

void LandmarksDrawer::showLines() {
  if (!isVisible()) return;
  if (!drawn_->isChecked()) return emit linesChanged(nullptr);
  auto lines = std::make_shared<CaveLines>();
  lines->searchedFrom = from_;
  lines->within = distance_->currentData().toLongLong();
  const auto now = chosen();
  for (int row = 0; row < model_->rowCount(); ++row) {
    const LandmarksModel::Row& r = model_->row(row);
    if (mouthed_->isChecked() && !r.found.system->mouth) continue;
    if (now && now->system == r.found.system)
      lines->chosen = static_cast<int>(lines->systems.size());
    lines->systems.push_back({r.name, r.found.system});
  }
  lines_ = std::move(lines);
  emit linesChanged(lines_);
}

}  // namespace app

#include "moc_landmarks_drawer.cpp"
