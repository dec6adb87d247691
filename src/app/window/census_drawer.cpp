#include "app/window/census_drawer.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/look/look.h"
#include "climate/biomes.h"

namespace app {
namespace {

constexpr qint64 kNearSide = 4096;
constexpr int kBiomeRole = Qt::UserRole + 1;
enum Column { Name, Share, Pieces, Mean, Largest, kColumns };

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
  table_ = new QTableWidget(0, kColumns);
  table_->setObjectName(QStringLiteral("census.table"));
  table_->setAccessibleName(tr("Biomes"));
  table_->setHorizontalHeaderLabels(
      {tr("Biome"), tr("Share"), tr("Pieces"), tr("Mean"), tr("Largest")});
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(look::kTableControl);
  table_->horizontalHeader()->setSectionResizeMode(Name, QHeaderView::Stretch);
  constexpr int kWidths[kColumns] = {0, 66, 54, 62, 72};
  for (int k = Share; k < kColumns; ++k) {
    table_->horizontalHeader()->setSectionResizeMode(k, QHeaderView::Fixed);
    table_->setColumnWidth(k, kWidths[k]);
    table_->horizontalHeaderItem(k)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
  }
  table_->horizontalHeader()->setMinimumSectionSize(30);
  table_->horizontalHeaderItem(Name)->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::SingleSelection);
  table_->setShowGrid(false);
  table_->setSortingEnabled(true);
  table_->horizontalHeader()->setSortIndicator(Share, Qt::DescendingOrder);
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
  if (!planOf(*world).biomes()) {
    table_->setRowCount(0);
    summary_->setText(tr("The biomes are off: there is nothing to count."));
    regions_->clear();
    bars_->setSizes({}, 1);
    return;
  }
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
  worker_.start(
      [courier = courier_, world, asked, request, slow = slow_](const std::stop_token& stop) {
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
        auto made = asked ? acre::censusOf(*world, *asked, options)
                          : [&]() -> acre::Result<acre::AreaCensus> {
          auto sample = acre::censusOfSample(*world, stop);
          if (!sample) return acre::cancelled();
          return std::move(*sample);
        }();
        if (stop.stop_requested()) return;
        courier->deliver([request, made = std::move(made)](CensusDrawer& self) {
          if (request != self.request_) return;
          self.counting_ = false;
          self.progress_->hide();
          self.stopButton_->hide();
          // A table that is laid out anew at every move would hold the map up.
          constexpr qint64 kApart = 200;
          if (!made) {
            self.summary_->setText(QString::fromStdString(made.error().text()));
          } else {
            self.census_ = *made;
            if (!self.again_ || !self.shown_.isValid() || self.shown_.elapsed() > kApart) {
              self.show_(*made);
              self.shown_.start();
            }
          }
          if (self.again_) self.refresh();
        });
      });
}

void CensusDrawer::show_(const acre::AreaCensus& census) {
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
