#include "app/landmarks/objects_list.h"

#include <algorithm>
#include <cmath>

#include "app/edit/list_parts.h"
#include "recipe/stages.h"

namespace app {

ObjectsList::ObjectsList(Document& document, MapView& map, QWidget* parent)
    : QWidget(parent),
      document_(document),
      map_(map),
      courier_(std::make_shared<Courier<ObjectsList>>(this)) {
  QVBoxLayout* column = parts::pageColumn(this);
  buildHead(column);
  headline_ = parts::headline(column, "landmarks.objects.headline");
  buildTable(column);
  buildButtons(column);
  list();
}

ObjectsList::~ObjectsList() {
  courier_->close();
  stop_.request_stop();
}

void ObjectsList::buildHead(QVBoxLayout* column) {
  QHBoxLayout* row = parts::row(column);
  row->addWidget(new QLabel(tr("Objects within")));
  within_ = parts::within("landmarks.objects.within", {500, 1000, 2000}, 1);
  connect(within_, &Choice::activated, this, &ObjectsList::search);
  row->addWidget(within_);
  row->addStretch(1);
  connect(parts::fromHere(row, "landmarks.objects.again"), &QPushButton::clicked, this,
      &ObjectsList::search);
}

void ObjectsList::buildTable(QVBoxLayout* column) {
  table_ = new QTableWidget(0, 3);
  parts::dress(*table_, "landmarks.objects.table", tr("Objects"));
  table_->setHorizontalHeaderLabels({tr("Object"), tr("away"), tr("state")});
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setWordWrap(false);
  QHeaderView* header = table_->horizontalHeader();
  header->setSectionResizeMode(QHeaderView::Fixed);
  header->setSectionResizeMode(2, QHeaderView::Stretch);
  table_->setColumnWidth(0, 116);
  table_->setColumnWidth(1, 56);
  const auto choose = [this] {
    goTo_->setEnabled(chosen() != nullptr);
    ask_->setEnabled(chosen() && (chosen()->object || chosen()->start));
  };
  connect(table_, &QTableWidget::itemSelectionChanged, this, choose);
  connect(table_, &QTableWidget::activated, this, [this] { goTo_->click(); });
  column->addWidget(table_, 1);
}

void ObjectsList::buildButtons(QVBoxLayout* column) {
  QHBoxLayout* row = parts::row(column);
  goTo_ = parts::pushButton(row, tr("Go there"), "landmarks.objects.goTo",
      tr("The map at it, or at the middle of the square that misses one (Enter)"));
  ask_ = parts::pushButton(
      row, tr("Ask why"), "landmarks.objects.ask", tr("A plumb line that says why it is there"));
  auto* command = parts::pushButton(row, tr("Command"), "landmarks.objects.command",
      tr("Copies the line that lists what stands there"));
  row->addStretch(1);
  goTo_->setEnabled(false);
  ask_->setEnabled(false);
  connect(goTo_, &QPushButton::clicked, this, [this] {
    if (const auto* one = chosen()) emit goToRequested(one->cell.x, one->cell.z);
  });
  connect(ask_, &QPushButton::clicked, this, [this] {
    if (const auto* one = chosen()) emit askRequested(one->cell.x, one->cell.z);
  });
  connect(command, &QPushButton::clicked, this, [this] {
    emit commandRequested(QStringLiteral("--objects --near %1,%2 --within %3")
                              .arg(from_.x)
                              .arg(from_.z)
                              .arg(within_->currentData().toString()));
  });
}

void ObjectsList::refresh() {
  if (isVisible() && searched_ != document_.world()) search();
}

void ObjectsList::showEvent(QShowEvent*) {
  if (searched_ != document_.world()) search();
}

void ObjectsList::search() {
  stop_.request_stop();
  stop_ = {};
  searched_ = document_.world();
  from_ = map_.viewpoint().cell;
  searching_ = true;
  headline_->setText(
      tr("Searching %1 around x %2 z %3…")
          .arg(within_->currentText(), look::wholeNumber(from_.x), look::wholeNumber(from_.z)));
  document_.engine().executor().submit(acre::Priority::Statistics, stop_.get_token(),
      [courier = courier_, world = searched_, from = from_,
          cells = static_cast<int64_t>(within_->currentData().toLongLong()), number = ++request_,
          stop = stop_.get_token()] {
        auto found = acre::objectLandmarks(*world, from, cells, stop);
        if (!found) return;
        courier->deliver([all = std::move(*found), number](ObjectsList& self) {
          if (number != self.request_) return;
          self.searching_ = false;
          self.found_ = all;
          self.list();
        });
      });
}

void ObjectsList::list() {
  table_->setRowCount(static_cast<int>(found_.size()));
  int missing = 0, squares = 0;
  for (size_t n = 0; n < found_.size(); ++n) {
    const acre::ObjectLandmark& one = found_[n];
    squares += one.square > 0;
    missing += one.square > 0 && !one.object;
    const QString texts[] = {QString::fromStdString(one.name),
        one.object || one.start || one.square > 0 ? look::wholeNumber(std::llround(one.distance))
                                                  : QString(),
        QString::fromStdString(one.state)};
    for (int c = 0; c < 3; ++c) {
      auto* item = new QTableWidgetItem(texts[c]);
      item->setToolTip(texts[c]);
      if (c == 1) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
      if (!one.object && !one.start) item->setForeground(look::tokens().soft);
      table_->setItem(static_cast<int>(n), c, item);
    }
  }
  if (searching_) return;
  const acre::Recipe& recipe = document_.recipe();
  headline_->setText(!acre::defOf(acre::StageId::Objects).isOf(recipe.frame.kind)
                         ? tr("Worlds of this kind have no objects.")
                     : std::none_of(found_.begin(), found_.end(),
                           [](const acre::ObjectLandmark& one) { return !one.start; })
                         ? tr("No kind of object is there. Add one in the stage Objects.")
                     : missing == 0 ? tr("Every square has what it must have.")
                                    : tr("%1 squares miss what they must have.").arg(missing));
}

const acre::ObjectLandmark* ObjectsList::chosen() const {
  const int row = table_->currentRow();
  if (table_->selectedItems().isEmpty() || row < 0 || row >= static_cast<int>(found_.size()))
    return nullptr;
  return &found_[static_cast<size_t>(row)];
}

}  // namespace app

#include "moc_objects_list.cpp"
