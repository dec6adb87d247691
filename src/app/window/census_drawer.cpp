#include "app/window/census_drawer.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "climate/biomes.h"
#include "world/world.h"

namespace app {
namespace {

constexpr qint64 kNearSide = 4096;
constexpr int kBiomeRole = Qt::UserRole + 1;
constexpr int kPlaceRole = Qt::UserRole + 2;
enum Column { Name, Share, Pieces, Mean, Largest, kColumns };
struct TileColumn {
  enum { Group, Tiles, Cases, Commonest, kCount };
};

/// A number that sorts as one and reads as people read it.
class NumberItem : public QTableWidgetItem {
 public:
  NumberItem(double value, const QString& text) : QTableWidgetItem(text), value_(value) {
    setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
  }
  bool operator<(const QTableWidgetItem& other) const override {
    const auto* number = dynamic_cast<const NumberItem*>(&other);
    return number ? value_ < number->value_ : QTableWidgetItem::operator<(other);
  }

 private:
  double value_;
};

QIcon swatch(const acre::Biome* biome) {
  QPixmap pixmap(12, 12);
  QPainter p(&pixmap);
  p.fillRect(pixmap.rect(),
      biome ? QBrush(QColor(biome->colour.red, biome->colour.green, biome->colour.blue))
            : QBrush(look::hatch()));
  p.setPen(look::tokens().edge);
  p.drawRect(0, 0, 11, 11);
  return pixmap;
}

QString whole(uint64_t n) {
  return look::wholeNumber(static_cast<qint64>(n));
}

/// A table of figures that is only read: the first column takes what the others leave.
QTableWidget* figureTable(const QStringList& heads, const std::vector<int>& widths) {
  auto* table = new QTableWidget(0, static_cast<int>(heads.size()));
  table->setHorizontalHeaderLabels(heads);
  table->verticalHeader()->hide();
  table->verticalHeader()->setDefaultSectionSize(look::kTableControl);
  table->horizontalHeader()->setMinimumSectionSize(30);
  table->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table->horizontalHeaderItem(0)->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  for (int k = 1; k < table->columnCount(); ++k) {
    table->horizontalHeader()->setSectionResizeMode(k, QHeaderView::Fixed);
    table->setColumnWidth(k, widths[static_cast<size_t>(k - 1)]);
    table->horizontalHeaderItem(k)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
  }
  table->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table->setSelectionBehavior(QAbstractItemView::SelectRows);
  table->setSelectionMode(QAbstractItemView::SingleSelection);
  table->setShowGrid(false);
  table->setSortingEnabled(true);
  table->horizontalHeader()->setSortIndicator(1, Qt::DescendingOrder);
  return table;
}

/// All cases of a group that occur, with how often.
QString casesOf(const acre::TileGroupFigures& of) {
  QStringList out;
  for (const int n : of.byFrequency())
    out << QObject::tr("case %1: %2")
               .arg(QString::number(n), look::wholeNumber(of.cases[static_cast<size_t>(n)]));
  if (of.ambiguous > 0)
    out << QObject::tr("of opposite corners: %1").arg(look::wholeNumber(of.ambiguous));
  if (of.unmatched > 0)
    out << QObject::tr("without a picture: %1").arg(look::wholeNumber(of.unmatched));
  if (of.hidden > 0)
    out << QObject::tr("hidden by later groups: %1").arg(look::wholeNumber(of.hidden));
  return out.join('\n');
}

}  // namespace

// ---- region sizes ------------------------------------------------------------------------------

RegionBars::RegionBars(QWidget* parent) : QWidget(parent) {
  setFixedHeight(sizeHint().height());
  setToolTip(tr("How many regions have so many cells; the mark is a square of the set size."));
}

void RegionBars::setSizes(const std::optional<acre::RegionSizes>& sizes, double size) {
  sizes_ = sizes;
  size_ = size;
  setVisible(sizes_ && sizes_->count > 0);
  update();
}

void RegionBars::paintEvent(QPaintEvent*) {
  if (!sizes_) return;
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  const QRectF r = QRectF(rect()).adjusted(0, 4, 0, -16);
  const uint32_t most =
      std::max(1u, *std::max_element(sizes_->histogram.begin(), sizes_->histogram.end()));
  const double wide = r.width() / acre::RegionSizes::kBins;
  p.setPen(Qt::NoPen);
  p.setBrush(t.soft);
  for (int k = 0; k < acre::RegionSizes::kBins; ++k) {
    const double tall = r.height() * sizes_->histogram[static_cast<size_t>(k)] / most;
    p.drawRect(QRectF(r.left() + k * wide, r.bottom() - tall, wide - 1, tall));
  }
  p.setPen(t.edge);
  p.drawLine(r.bottomLeft(), r.bottomRight());
  p.setPen(QPen(t.ink, 1.5));
  p.drawLine(
      QPointF(r.left() + r.width() / 3, r.top()), QPointF(r.left() + r.width() / 3, r.bottom()));
  p.setFont(look::font(look::Type::Caption));
  p.setPen(t.soft);
  p.drawText(QRectF(r.left(), r.bottom() + 1, 60, 14), Qt::AlignLeft, QStringLiteral("0"));
  p.drawText(QRectF(r.left() + r.width() / 3 - 40, r.bottom() + 1, 80, 14), Qt::AlignHCenter,
      look::wholeNumber(std::llround(size_ * size_)));
  p.drawText(QRectF(r.right() - 90, r.bottom() + 1, 90, 14), Qt::AlignRight,
      tr("%1 cells").arg(look::wholeNumber(std::llround(3 * size_ * size_))));
}

// ---- the drawer --------------------------------------------------------------------------------

CensusDrawer::CensusDrawer(Document& document, QWidget* parent)
    : QWidget(parent),
      document_(document),
      courier_(std::make_shared<Courier<CensusDrawer>>(this)) {
  setObjectName(QStringLiteral("census"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 8, 12, 10);
  column->setSpacing(6);
  buildHead(column);
  auto* progressRow = new QHBoxLayout;
  progress_ = new QProgressBar;
  progress_->setObjectName(QStringLiteral("census.progress"));
  progress_->setRange(0, 1000);
  stopButton_ = new QPushButton(tr("Stop"));
  connect(stopButton_, &QPushButton::clicked, this, &CensusDrawer::stopCounting);
  progressRow->addWidget(progress_, 1);
  progressRow->addWidget(stopButton_);
  column->addLayout(progressRow);
  summary_ = new QLabel;
  summary_->setObjectName(QStringLiteral("census.summary"));
  summary_->setWordWrap(true);
  column->addWidget(summary_);
  buildTable(column);
  neighbours_ = new QLabel;
  neighbours_->setObjectName(QStringLiteral("census.neighbours"));
  neighbours_->setWordWrap(true);
  column->addWidget(neighbours_);
  regions_ = new QLabel;
  regions_->setObjectName(QStringLiteral("census.regions"));
  regions_->setWordWrap(true);
  column->addWidget(regions_);
  bars_ = new RegionBars;
  column->addWidget(bars_);
  buildTiles(column);
  progress_->hide();
  stopButton_->hide();
  bars_->hide();
  connect(&document_, &Document::worldChanged, this, &CensusDrawer::refresh);
}

void CensusDrawer::buildHead(QVBoxLayout* column) {
  auto* row = new QHBoxLayout;
  of_ = new Choice;
  of_->setObjectName(QStringLiteral("census.of"));
  of_->setAccessibleName(tr("What is counted"));
  of_->addItems({tr("the view, cell by cell"), tr("4,096 × 4,096 about the viewpoint"),
      tr("a stated area"), tr("65,536 cells of the world")});
  connect(of_, &Choice::activated, this, [this](int index) {
    stated_->setVisible(index == Stated);
    if (index == Stated) stated_->setFocus();
    refresh();
  });
  row->addWidget(of_, 1);
  auto* copy = new QPushButton(tr("Copy as command"));
  copy->setObjectName(QStringLiteral("census.copy"));
  connect(copy, &QPushButton::clicked, this, [this] {
    const auto rect = area();
    emit commandRequested(rect ? QStringLiteral("%1,%2,%3x%4")
                                     .arg(rect->x)
                                     .arg(rect->z)
                                     .arg(rect->width)
                                     .arg(rect->length)
                               : QString());
  });
  row->addWidget(copy);
  column->addLayout(row);
  stated_ = new QLineEdit(QStringLiteral("-2048, -2048, 4096x4096"));
  stated_->setObjectName(QStringLiteral("census.area"));
  stated_->setAccessibleName(tr("Area: x, z, width x height"));
  stated_->setToolTip(tr("First cell x, z and size, for example −2048, −2048, 4096x4096."));
  stated_->hide();
  connect(stated_, &QLineEdit::returnPressed, this, &CensusDrawer::refresh);
  column->addWidget(stated_);
}

void CensusDrawer::buildTable(QVBoxLayout* column) {
  table_ = figureTable(
      {tr("Biome"), tr("Share"), tr("Pieces"), tr("Mean"), tr("Largest")}, {66, 54, 62, 72});
  table_->setObjectName(QStringLiteral("census.table"));
  table_->setAccessibleName(tr("Biomes"));
  table_->setToolTip(tr("A click lights the biome's ground; a double click goes to it."));
  connect(table_, &QTableWidget::itemSelectionChanged, this, &CensusDrawer::showChosen);
  connect(table_, &QTableWidget::cellDoubleClicked, this, [this](int line, int) {
    const int biome = table_->item(line, Name)->data(kBiomeRole).toInt();
    if (!census_) return;
    for (const acre::BiomeShare& share : census_->biomes)
      if (share.index == biome && share.example)
        emit goToRequested(share.example->x, share.example->z);
  });
  column->addWidget(table_, 1);
}

void CensusDrawer::buildTiles(QVBoxLayout* column) {
  tilesHead_ = new QLabel;
  tilesHead_->setObjectName(QStringLiteral("census.tilesHead"));
  tilesHead_->setWordWrap(true);
  column->addWidget(tilesHead_);
  tiles_ = figureTable({tr("Tiles of"), tr("Tiles"), tr("Cases"), tr("Commonest")}, {76, 54, 86});
  tiles_->setObjectName(QStringLiteral("census.tiles"));
  tiles_->setAccessibleName(tr("Tiles by group"));
  tiles_->setToolTip(
      tr("A row tells all its cases when the pointer rests on it; a double click goes to the "
         "first tile without a picture, else to one of the commonest case."));
  connect(tiles_, &QTableWidget::cellDoubleClicked, this, [this](int line, int) {
    const QVariant place = tiles_->item(line, TileColumn::Group)->data(kPlaceRole);
    if (!place.isValid()) return;
    const QVariantList at = place.toList();
    emit goToRequested(at[0].toLongLong(), at[1].toLongLong());
  });
  column->addWidget(tiles_, 1);
  showTiles({});
}

/// Lights the ground of the chosen biome and tells what it borders on.
void CensusDrawer::showChosen() {
  const auto chosen = table_->selectedItems();
  neighbours_->clear();
  if (chosen.isEmpty()) return emit biomeLit(-1);
  const int biome = chosen.front()->data(kBiomeRole).toInt();
  emit biomeLit(biome);
  if (!census_ || !counted_) return;
  for (const acre::BiomeShare& share : census_->biomes) {
    if (share.index != biome || share.neighbours.empty()) continue;
    QStringList names;
    for (const acre::Neighbour& n : share.neighbours) {
      const acre::Biome* other = acre::planOf(*counted_).catalogue().biome(n.biome);
      names << tr("%1 (%2)").arg(
          other ? QString::fromStdString(other->name) : tr("no rule"), whole(n.edges));
    }
    neighbours_->setText(
        tr("%1 borders on %2 cell sides.")
            .arg(QString::fromStdString(share.name), names.join(QStringLiteral(", "))));
  }
}

CensusDrawer::~CensusDrawer() {
  courier_->close();
  worker_.stop();
}

void CensusDrawer::hideEvent(QHideEvent*) {
  stopCounting();
  table_->clearSelection();
  emit biomeLit(-1);
}

void CensusDrawer::setView(const MapGeometry& geometry, acre::Cell viewpoint) {
  geometry_ = geometry;
  viewpoint_ = viewpoint;
  if (of_->currentIndex() == View || of_->currentIndex() == Near) refresh();
}

/// What is asked for; nothing: the world's sample, or what was typed is no area.
std::optional<acre::Rect> CensusDrawer::area() const {
  switch (of_->currentIndex()) {
    case View: {
      const acre::Rect cells = geometry_.cells();
      return acre::Rect{cells.x + 1, cells.z + 1, cells.width - 2, cells.length - 2};
    }
    case Near:
      return acre::Rect{
          viewpoint_.x - kNearSide / 2, viewpoint_.z - kNearSide / 2, kNearSide, kNearSide};
    case Stated: {
      QString text = stated_->text();
      text.remove(QLatin1Char(' '))
          .replace(QChar(0x2212), QLatin1Char('-'))
          .replace(QChar(0xD7), QLatin1Char('x'));
      const QStringList parts = text.split(QLatin1Char(','));
      const QStringList size = parts.value(2).split(QLatin1Char('x'));
      bool fine[4] = {};
      const acre::Rect rect{parts.value(0).toLongLong(&fine[0]),
          parts.value(1).toLongLong(&fine[1]), size.value(0).toLongLong(&fine[2]),
          size.value(1).toLongLong(&fine[3])};
      if (parts.size() == 3 && size.size() == 2 && fine[0] && fine[1] && fine[2] && fine[3])
        return rect;
      return acre::Rect{};
    }
    default:
      return {};
  }
}

void CensusDrawer::refresh() {
  if (!isVisible()) return;
  const auto asked = area();
  if (counted_ == document_.world() && countedArea_ == asked && (census_ || counting_)) return;
  // While the map is drawn along, what is counted soon is counted to its end: figures that follow.
  again_ = counting_ && !slow_;
  if (!again_) count();
}

void CensusDrawer::stopCounting() {
  worker_.stop();
  ++request_;
  counting_ = false;
  again_ = false;
  counted_ = nullptr;
  progress_->hide();
  stopButton_->hide();
}

void CensusDrawer::count() {
  stopCounting();
  const auto world = document_.world();
  const auto asked = area();
  counted_ = world;
  countedArea_ = asked;
  census_.reset();
  const bool biomes = planOf(*world).biomes(), tiles = world->tiles().stage();
  if (!biomes) clearBiomes(tr("The biomes are off: there is nothing to count."));
  if (!tiles) showTiles({});
  if (!biomes && !tiles) return;
  // More cells than this take too long to start by themselves at every step of the wheel.
  constexpr int64_t kMost = int64_t{1} << 28;
  if (asked && (asked->empty() || asked->width > kMost / std::max<int64_t>(1, asked->length))) {
    const bool view = of_->currentIndex() == View;
    summary_->setText(
        asked->empty() ? tr("“%1” is no area; accepted: x, z, width x height, with 1 to 2²⁸ cells")
                             .arg(stated_->text().left(40))
        : view ? tr("The view holds more than 2²⁸ cells. Zoom in, or count a sample.")
               : tr("The area holds more than 2²⁸ cells."));
    table_->setRowCount(0);
    regions_->clear();
    showTiles({});
    return;
  }
  counting_ = true;
  progress_->setValue(0);
  slow_ = asked && asked->width * asked->length > (int64_t{1} << 21);
  progress_->setVisible(slow_);
  stopButton_->setVisible(slow_);
  if (slow_)
    summary_->setText(
        tr("Counting %1 cells…").arg(look::wholeNumber(asked->width * asked->length)));
  const uint64_t request = ++request_;
  // A thread of its own: a long count must not keep the map's pictures waiting.
  worker_.start([courier = courier_, world, asked, request, biomes, tiles, slow = slow_](
                    const std::stop_token& stop) {
    acre::CensusOptions options;
    // What follows the map leaves it a processor to be drawn with.
    const unsigned all = std::max(1u, std::thread::hardware_concurrency());  // 0: unknown.
    options.threads = slow ? all : std::max(1u, all - 1);
    options.stop = stop;
    int told = 0;
    options.progress = [&](double share) {
      const int now = static_cast<int>(share * 1000);
      if (now < told + 10) return;
      told = now;
      courier->deliver([request, now](CensusDrawer& self) {
        if (request == self.request_) self.progress_->setValue(now);
      });
    };
    const auto made = [&]() -> acre::Result<Counted> {
      Counted out;
      if (biomes && asked) {
        auto census = acre::censusOf(*world, *asked, options);
        if (!census) return census.error();
        out.biomes = std::move(*census);
      } else if (biomes) {
        out.biomes = acre::censusOfSample(*world, stop);
      }
      if (tiles && out.biomes && !stop.stop_requested())  // They need not wait for the tiles.
        courier->deliver([request, found = *out.biomes](CensusDrawer& self) {
          if (request == self.request_ && !self.again_) self.showBiomes(found);
        });
      if (tiles) {
        constexpr int64_t kSide = acre::kTilesCounted;
        const auto arts = acre::TileArts::of(*world);
        out.tiles = acre::tileFigures(*world, arts ? &*arts : nullptr,
            acre::middlePart(
                asked.value_or(acre::Rect{-kSide / 2, -kSide / 2, kSide, kSide}), kSide),
            stop);
      }
      return out;
    }();
    if (stop.stop_requested()) return;
    courier->deliver([request, made](CensusDrawer& self) {
      if (request != self.request_) return;
      self.counting_ = false;
      self.progress_->hide();
      self.stopButton_->hide();
      // A table that is laid out anew at every move would hold the map up.
      constexpr qint64 kApart = 200;
      if (!made) {
        self.summary_->setText(QString::fromStdString(made.error().text()));
      } else {
        self.census_ = made->biomes;
        if (!self.again_ || !self.shown_.isValid() || self.shown_.elapsed() > kApart) {
          self.show_(*made);
          self.shown_.start();
        }
      }
      if (self.again_) self.refresh();
    });
  });
}

void CensusDrawer::clearBiomes(const QString& why) {
  table_->setRowCount(0);
  summary_->setText(why);
  regions_->clear();
  bars_->setSizes({}, 1);
}

void CensusDrawer::show_(const Counted& counted) {
  if (counted.biomes) showBiomes(*counted.biomes);
  showTiles(counted.tiles);
}

void CensusDrawer::showTiles(const std::optional<acre::TileFigures>& figures) {
  tilesHead_->setVisible(figures.has_value());
  tiles_->setVisible(figures.has_value());
  if (!figures) return;
  int64_t without = 0;
  for (const acre::TileGroupFigures& of : figures->groups) without += of.unmatched;
  tilesHead_->setText(
      tr("Tiles over %1 × %2 cells: %3 cells of no group, %4 tiles without a picture.")
          .arg(look::wholeNumber(figures->area.width), look::wholeNumber(figures->area.length),
              look::wholeNumber(figures->ungrouped), look::wholeNumber(without)));
  tiles_->setSortingEnabled(false);
  tiles_->setRowCount(static_cast<int>(figures->groups.size()));
  for (int line = 0; line < tiles_->rowCount(); ++line) {
    const acre::TileGroupFigures& of = figures->groups[static_cast<size_t>(line)];
    const std::vector<int> order = of.byFrequency();
    auto* name =
        new QTableWidgetItem(QString::fromStdString(counted_->tiles().stage()->group(line).name));
    std::optional<acre::Cell> place = of.firstUnmatched;
    if (!place && !order.empty()) place = of.first[static_cast<size_t>(order.front())];
    if (place) name->setData(kPlaceRole, QVariantList{qint64{place->x}, qint64{place->z}});
    tiles_->setItem(line, TileColumn::Group, name);
    tiles_->setItem(line, TileColumn::Tiles,
        new NumberItem(static_cast<double>(of.tiles), look::wholeNumber(of.tiles)));
    tiles_->setItem(line, TileColumn::Cases,
        new NumberItem(static_cast<double>(order.size()), QString::number(order.size())));
    const double most =
        order.empty() ? 0 : static_cast<double>(of.cases[static_cast<size_t>(order.front())]);
    tiles_->setItem(line, TileColumn::Commonest,
        new NumberItem(order.empty() ? -1 : order.front(),
            order.empty() ? tr("never")
                          : tr("%1 · %2").arg(QString::number(order.front()),
                                look::percent(most / static_cast<double>(of.tiles)))));
    for (int k = 0; k < TileColumn::kCount; ++k) tiles_->item(line, k)->setToolTip(casesOf(of));
  }
  tiles_->setSortingEnabled(true);
}

void CensusDrawer::showBiomes(const acre::AreaCensus& census) {
  double sum = 0;
  for (const acre::BiomeShare& share : census.biomes) sum += share.share;
  summary_->setText(census.sampled ? tr("%1 cells spread over the world").arg(whole(census.cells))
                                   : tr("%1 cells, every one").arg(whole(census.cells)));
  const QVariant kept = table_->selectedItems().isEmpty()
                            ? QVariant()
                            : table_->selectedItems().front()->data(kBiomeRole);
  const QSignalBlocker quiet(table_);
  table_->setSortingEnabled(false);
  table_->setRowCount(static_cast<int>(census.biomes.size()));
  for (int line = 0; line < table_->rowCount(); ++line) {
    const acre::BiomeShare& share = census.biomes[static_cast<size_t>(line)];
    auto* name =
        new QTableWidgetItem(swatch(acre::planOf(*counted_).catalogue().biome(share.index)),
            QString::fromStdString(share.name));
    table_->setItem(line, Name, name);
    table_->setItem(line, Share,
        new NumberItem(share.share, share.cells ? look::percent(share.share) : tr("never")));
    const auto number = [&](Column at, double value) {
      table_->setItem(line, at,
          new NumberItem(value,
              census.sampled ? QStringLiteral("–") : look::wholeNumber(std::llround(value))));
    };
    number(Pieces, static_cast<double>(share.pieces));
    number(Mean, share.meanPiece());
    number(Largest, static_cast<double>(share.largest));
    for (int k = 0; k < kColumns; ++k) table_->item(line, k)->setData(kBiomeRole, share.index);
  }
  table_->setSortingEnabled(true);
  for (int line = 0; line < table_->rowCount() && kept.isValid(); ++line)
    if (table_->item(line, Name)->data(kBiomeRole) == kept) table_->selectRow(line);
  bars_->setSizes(census.regions, acre::planOf(*counted_).biomes()->borderReach());
  const auto& r = census.regions;
  regions_->setText(
      r ? tr("%1 regions wholly inside, %2 cut by the edge. %3 cells each, from %4 to %5. "
             "%6 islets of %7 cells.")
              .arg(whole(r->count), whole(r->cut), look::wholeNumber(std::llround(r->mean)),
                  whole(r->smallest), whole(r->largest), whole(r->islets), whole(r->isletCells))
        : QString());
}

}  // namespace app

#include "moc_census_drawer.cpp"
