#include "app/landmarks/spaces_list.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <map>

#include "app/edit/list_parts.h"
#include "output/shading.h"
#include "recipe/map_inks.h"

namespace app {
namespace {

/// Inks that stay apart under the common colour blindnesses; numbers stand with them.
constexpr QRgb kInks[SpacesModel::kNumbered] = {acre::opaqueInk(acre::inks::kDeepWater),
    acre::opaqueInk(acre::inks::kReedbed), acre::opaqueInk(acre::inks::kHeath),
    acre::opaqueInk(acre::inks::kSaltmarsh), acre::opaqueInk(acre::inks::kOrchard),
    acre::opaqueInk(acre::inks::kShallow)};
constexpr QRgb kRest = acre::opaqueInk(acre::inks::kMudflat);

/// Bytes in use while a cell of the box is looked at.
constexpr uint64_t kBytesPerCell = 14;

std::shared_ptr<const SpacesPicture> pictureOf(const acre::SpacesInBox& found) {
  const acre::SampleBlock& box = found.box;
  auto out = std::make_shared<SpacesPicture>();
  out->area = {box.x, box.z, box.width, box.length};
  out->image = QImage(box.width, box.length, QImage::Format_ARGB32);
  out->image.fill(Qt::transparent);
  const auto columns = static_cast<size_t>(box.width) * static_cast<size_t>(box.length);
  struct Sum {
    double x = 0, z = 0, count = 0;
  };
  std::vector<Sum> sums(SpacesModel::kNumbered);
  for (int32_t k = 0; k < box.length; ++k)
    for (int32_t i = 0; i < box.width; ++i) {
      // The largest space that the column holds a cell of.
      uint32_t best = acre::OpenSpaces::kSolid;
      size_t at = static_cast<size_t>(k) * static_cast<size_t>(box.width) + static_cast<size_t>(i);
      for (int32_t j = 0; j < box.height; ++j, at += columns)
        best = std::min(best, found.labels[at]);
      if (best == acre::OpenSpaces::kSolid) continue;
      out->image.setPixel(
          i, k, best < SpacesModel::kNumbered ? kInks[best] : (kRest & 0x00FFFFFFu) | 150u << 24);
      if (best >= sums.size()) continue;
      sums[best].x += i;
      sums[best].z += k;
      ++sums[best].count;
    }
  // A number stands on the cell of its space nearest to the middle of what is seen of it.
  for (size_t s = 0; s < sums.size() && s < found.spaces.size(); ++s) {
    if (sums[s].count == 0) continue;
    const double mx = sums[s].x / sums[s].count, mz = sums[s].z / sums[s].count;
    double nearest = 1e18;
    acre::Cell cell;
    for (int32_t k = 0; k < box.length; ++k)
      for (int32_t i = 0; i < box.width; ++i) {
        const double far = (i - mx) * (i - mx) + (k - mz) * (k - mz);
        if (out->image.pixel(i, k) != kInks[s] || far >= nearest) continue;
        nearest = far;
        cell = {box.x + i, box.z + k};
      }
    out->numbers.push_back({cell, QString::number(s + 1)});
  }
  return out;
}

}  // namespace

// ---- the list ----------------------------------------------------------------------------------

QColor SpacesModel::colour(int rank) {
  return QColor::fromRgba(rank < kNumbered ? kInks[rank] : kRest);
}

void SpacesModel::set(std::shared_ptr<const acre::SpacesInBox> found) {
  beginResetModel();
  found_ = std::move(found);
  endResetModel();
}

int SpacesModel::rowCount(const QModelIndex& parent) const {
  constexpr size_t kMost = 1000;
  return parent.isValid() || !found_ ? 0 : static_cast<int>(std::min(kMost, found_->spaces.size()));
}

int SpacesModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : 4;
}

QVariant SpacesModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid()) return {};
  const acre::OpenSpace& s = space(index.row());
  if (role == Qt::DecorationRole && index.column() == 0) {
    QPixmap swatch(12, 12);
    QPainter p(&swatch);
    p.fillRect(swatch.rect(), colour(index.row()));
    p.setPen(look::tokens().edge);
    p.drawRect(0, 0, 11, 11);
    return swatch;
  }
  if (role == Qt::TextAlignmentRole && index.column() == 1)
    return static_cast<int>(Qt::AlignRight | Qt::AlignVCenter);
  if (role != Qt::DisplayRole) return {};
  switch (index.column()) {
    case 0:
      return index.row() + 1;
    case 1:
      return look::wholeNumber(static_cast<qint64>(s.cells));
    case 2:
      return QStringLiteral("%1, %2, %3")
          .arg(look::wholeNumber(box().x + s.x), look::wholeNumber(box().y + s.y),
              look::wholeNumber(box().z + s.z));
    default:
      return s.openEnded ? tr("open-ended") : tr("whole");
  }
}

QVariant SpacesModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return {};
  const QString names[] = {QStringLiteral("#"), tr("blocks"), tr("from x, y, z"), tr("in the box")};
  if (role == Qt::ToolTipRole && section == 3)
    return tr("Open-ended spaces touch the sides of the box and may go on beyond it.");
  return role == Qt::DisplayRole ? QVariant(names[section]) : QVariant();
}

// ---- the page ----------------------------------------------------------------------------------

SpacesList::SpacesList(Document& document, MapView& map, QWidget* parent)
    : QWidget(parent),
      document_(document),
      map_(map),
      courier_(std::make_shared<Courier<SpacesList>>(this)) {
  QVBoxLayout* column = parts::pageColumn(this);
  QHBoxLayout* row = parts::row(column);
  row->addWidget(new QLabel(tr("Box")));
  side_ = new Choice;
  side_->setObjectName(QStringLiteral("spaces.side"));
  side_->setAccessibleName(tr("Side of the box"));
  for (const int cells : {96, 192, 320}) side_->addItem(tr("%1 × %1 columns").arg(cells), cells);
  side_->setCurrentIndex(1);
  connect(side_, &Choice::activated, this, &SpacesList::search);
  row->addWidget(side_);
  row->addStretch(1);
  auto* command = new QPushButton(tr("Command"));
  command->setToolTip(tr("Copies the line that lists the same"));
  connect(command, &QPushButton::clicked, this, [this] {
    emit commandRequested(QStringLiteral("--spaces %1,%2,%3x%4 --levels %5,%6")
                              .arg(box_.x)
                              .arg(box_.z)
                              .arg(box_.width)
                              .arg(box_.length)
                              .arg(box_.y)
                              .arg(box_.y + box_.height - 1));
  });
  row->addWidget(command);
  auto* again = new QPushButton(tr("From here"));
  again->setObjectName(QStringLiteral("spaces.again"));
  again->setToolTip(tr("The box around the viewpoint"));
  connect(again, &QPushButton::clicked, this, &SpacesList::search);
  row->addWidget(again);
  headline_ = parts::headline(column, "spaces.headline");
  model_ = new SpacesModel(this);
  table_ = new QTableView;
  table_->setObjectName(QStringLiteral("spaces.table"));
  table_->setAccessibleName(tr("Open spaces"));
  table_->setModel(model_);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setShowGrid(false);
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(24);
  table_->horizontalHeader()->setHighlightSections(false);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
  table_->horizontalHeader()->setSectionResizeMode(2, QHeaderView::Stretch);
  table_->setColumnWidth(0, 64);
  table_->setColumnWidth(1, 84);
  table_->setColumnWidth(3, 92);
  connect(table_, &QTableView::activated, this, &SpacesList::activate);
  connect(table_, &QTableView::clicked, this, &SpacesList::activate);
  column->addWidget(table_, 1);
}

SpacesList::~SpacesList() {
  courier_->close();
  stop_.request_stop();
}

void SpacesList::activate(const QModelIndex& index) {
  const acre::OpenSpace& s = model_->space(index.row());
  const acre::SampleBlock& box = model_->box();
  emit goToRequested(box.x + s.x, box.y + s.y, box.z + s.z);
}

void SpacesList::refresh() {
  if (isVisible() && searched_ != document_.world()) search();
}

void SpacesList::showEvent(QShowEvent*) {
  if (searched_ != document_.world())
    search();
  else
    emit pictureChanged(picture_);
}

void SpacesList::hideEvent(QHideEvent*) {
  emit pictureChanged(nullptr);
}

void SpacesList::search() {
  stop_.request_stop();
  stop_ = {};
  searched_ = document_.world();
  model_->set(nullptr);
  picture_ = nullptr;
  emit pictureChanged(nullptr);
  ++request_;
  const bool level = acre::planOf(*searched_).level() != nullptr;
  if (!acre::planOf(*searched_).blocks() && !level) {
    searching_ = false;
    return headline_->setText(tr("In a world of tiles nothing lies under the ground."));
  }
  const acre::AxisBounds range = acre::planOf(*searched_).vertical();
  const bool plane = acre::planOf(*searched_).layout().vertical().plane;
  const auto side = static_cast<int32_t>(side_->currentData().toInt()) * (plane ? 8 : 1);
  const acre::Cell middle = map_.viewpoint().cell;
  constexpr int64_t kTallest = 512;
  box_ = {middle.x - side / 2, range.min, plane ? 0 : middle.z - side / 2, 1, side,
      static_cast<int32_t>(std::min(range.extent, kTallest)), plane ? 1 : side};
  if (level) {
    box_.y = 0;
    box_.height = 1;
  }
  searching_ = true;
  headline_->setText(
      tr("Looking into %1 × %2 × %3 blocks…").arg(box_.width).arg(box_.height).arg(box_.length));
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, world = searched_, box = box_, &engine = document_.engine(),
          number = request_, stop = stop_.get_token()] {
        const uint64_t cells = static_cast<uint64_t>(box.width) *
                               static_cast<uint64_t>(box.height) *
                               static_cast<uint64_t>(box.length);
        const auto room = engine.budget().reserve(cells * kBytesPerCell);
        QString fault = room ? QString() : tr("The limit of memory leaves no room for this box.");
        std::shared_ptr<const acre::SpacesInBox> found;
        std::shared_ptr<const SpacesPicture> picture;
        if (room) {
          auto made = acre::spacesIn(*world, box, stop);
          if (stop.stop_requested()) return;
          if (made) {
            picture = pictureOf(*made);
            made->labels = {};  // They are in the picture.
            found = std::make_shared<const acre::SpacesInBox>(std::move(*made));
          } else {
            fault = QString::fromStdString(made.error().text());
          }
        }
        courier->deliver([found, picture, fault, number](SpacesList& self) {
          if (number != self.request_) return;
          self.searching_ = false;
          self.model_->set(found);
          self.picture_ = picture;
          if (!found) return self.headline_->setText(fault);
          uint64_t all = 0;
          for (const acre::OpenSpace& s : found->spaces) all += s.cells;
          self.headline_->setText(
              found->spaces.empty()
                  ? tr("Nothing is open below the surface in this box.")
                  : tr("%1 open spaces of %2 blocks in all, in a box of %3 × %4 × %5 from "
                       "x %6 y %7 z %8")
                        .arg(look::wholeNumber(static_cast<qint64>(found->spaces.size())),
                            look::wholeNumber(static_cast<qint64>(all)))
                        .arg(found->box.width)
                        .arg(found->box.height)
                        .arg(found->box.length)
                        .arg(look::wholeNumber(found->box.x), look::wholeNumber(found->box.y),
                            look::wholeNumber(found->box.z)));
          if (self.isVisible()) emit self.pictureChanged(picture);
        });
      });
}

}  // namespace app

#include "moc_spaces_list.cpp"
