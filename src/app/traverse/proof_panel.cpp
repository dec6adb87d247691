#include "app/traverse/proof_panel.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QHeaderView>
#include <QVBoxLayout>

#include "app/look/look.h"
#include "reference/prover.h"
#include "world/plan.h"

namespace app {

ProofPanel::ProofPanel(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), courier_(std::make_shared<Courier<ProofPanel>>(this)) {
  setObjectName(QStringLiteral("proof"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 8, 12, 12);
  column->setSpacing(6);
  auto* title = new QLabel(tr("Proof"));
  title->setFont(look::font(look::Type::Head));
  column->addWidget(title);
  auto* row = new QHBoxLayout;
  start_ = new QPushButton(tr("Prove this world"));
  start_->setObjectName(QStringLiteral("proof.start"));
  start_->setToolTip(
      tr("Makes three areas (at home, at negative coordinates, two thousand million cells out) in\n"
         "every way there is, from nothing each time, and compares cell by cell."));
  connect(start_, &QPushButton::clicked, this, &ProofPanel::start);
  stopButton_ = new QPushButton(tr("Stop"));
  stopButton_->setObjectName(QStringLiteral("proof.stop"));
  connect(stopButton_, &QPushButton::clicked, this, &ProofPanel::stop);
  auto* copy = new QPushButton(tr("Copy as command"));
  connect(copy, &QPushButton::clicked, this, &ProofPanel::commandRequested);
  row->addWidget(start_);
  row->addWidget(stopButton_);
  row->addStretch(1);
  row->addWidget(copy);
  column->addLayout(row);
  progress_ = new QProgressBar;
  progress_->setRange(0, 1000);
  column->addWidget(progress_);
  verdict_ = new QLabel(
      tr("Chunks against the whole, any order, any number of threads, every instruction set, a "
         "second evaluator and a second process must all find the same cells."));
  verdict_->setObjectName(QStringLiteral("proof.verdict"));
  verdict_->setWordWrap(true);
  column->addWidget(verdict_);
  fingerprint_ = new QLabel;
  fingerprint_->setObjectName(QStringLiteral("proof.fingerprint"));
  fingerprint_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  fingerprint_->setToolTip(tr("Compare it with that of another machine or another day."));
  column->addWidget(fingerprint_);
  table_ = new QTableWidget(0, 3);
  table_->setObjectName(QStringLiteral("proof.table"));
  table_->setAccessibleName(tr("Steps of the proof"));
  table_->setHorizontalHeaderLabels({tr("Step"), tr("Cells"), {}});
  table_->verticalHeader()->hide();
  table_->verticalHeader()->setDefaultSectionSize(look::kTableControl - 3);
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table_->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Fixed);
  table_->horizontalHeader()->setSectionResizeMode(2, QHeaderView::Fixed);
  table_->setColumnWidth(1, 60);
  table_->setColumnWidth(2, 58);
  table_->horizontalHeaderItem(0)->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->horizontalHeaderItem(1)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionMode(QAbstractItemView::NoSelection);
  table_->setShowGrid(false);
  table_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  column->addWidget(table_);
  difference_ = new QLabel;
  difference_->setObjectName(QStringLiteral("proof.difference"));
  difference_->setWordWrap(true);
  difference_->setTextInteractionFlags(Qt::TextSelectableByMouse);
  column->addWidget(difference_);
  go_ = new QPushButton(tr("Go to the cell"));
  connect(go_, &QPushButton::clicked, this, [this] {
    for (const acre::ProofStep& step : proof_->steps)
      if (step.difference)
        return emit goToRequested(step.difference->cell.x, step.difference->cell.z);
  });
  column->addWidget(go_, 0, Qt::AlignLeft);
  column->addStretch(1);
  for (QWidget* part :
      std::initializer_list<QWidget*>{progress_, fingerprint_, table_, difference_, go_})
    part->hide();
  stopButton_->setEnabled(false);
  connect(&other_, &QProcess::finished, this, [this](int code, QProcess::ExitStatus status) {
    if (!proof_ || !running_) return;
    std::string expected = proof_->world.hex() + "\n";
    for (const acre::Digest& area : proof_->areaHashes) expected += area.hex() + "\n";
    const bool same = status == QProcess::NormalExit && code == 0 &&
                      other_.readAllStandardOutput().toStdString() == expected;
    fileProcess(same, {});
  });
  connect(&other_, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
    if (error == QProcess::FailedToStart) fileProcess(true, tr("the command is not there"));
  });
}

ProofPanel::~ProofPanel() {
  courier_->close();
  worker_.stop();
  other_.disconnect(this);
  other_.kill();
  other_.waitForFinished(1000);
}

void ProofPanel::start() {
  stop();
  running_ = true;
  proof_.reset();
  progress_->setValue(0);
  progress_->show();
  stopButton_->setEnabled(true);
  for (QWidget* part : std::initializer_list<QWidget*>{fingerprint_, table_, difference_, go_})
    part->hide();
  verdict_->setText(tr("Proving…"));
  source_ = document_.modified() ? QString() : document_.source();
  const uint64_t request = ++request_;
  worker_.start(
      [courier = courier_, recipe = document_.recipe(), request](const std::stop_token& stop) {
        acre::ProofOptions options;
        options.stop = stop;
        reference::testify(recipe, options);
        options.progress = [&](double share, const std::string& what) {
          courier->deliver([request, share, what = QString::fromStdString(what)](ProofPanel& self) {
            if (request != self.request_) return;
            self.progress_->setValue(static_cast<int>(share * 950));
            if (!what.isEmpty()) self.verdict_->setText(what + QStringLiteral("…"));
          });
        };
        auto proof = acre::prove(recipe, options);
        courier->deliver([request, proof = std::move(proof)](ProofPanel& self) {
          if (request != self.request_) return;
          if (!proof) {
            self.running_ = false;
            self.progress_->hide();
            self.stopButton_->setEnabled(false);
            return self.verdict_->setText(QString::fromStdString(proof.error().text()));
          }
          self.proof_ = *proof;
          self.askSecondProcess();
        });
      });
}

void ProofPanel::stop() {
  worker_.stop();
  if (running_ && other_.state() != QProcess::NotRunning) {
    other_.kill();
    other_.waitForFinished(1000);
  }
}

void ProofPanel::askSecondProcess() {
  if (source_.isEmpty()) return fileProcess(true, tr("the world has unsaved changes"));
  const QString command = QCoreApplication::applicationDirPath() + QStringLiteral("/acre");
  if (!QFileInfo::exists(command)) return fileProcess(true, tr("the command is not there"));
  other_.start(command, {QStringLiteral("prove"), source_, QStringLiteral("--fingerprint")});
}

/// why: the process was not asked, and this is the reason.
void ProofPanel::fileProcess(bool holds, const QString& why) {
  if (!running_ || !proof_) return;
  running_ = false;
  acre::ProofStep step{"process", "A second process finds the same", holds, 0, {}};
  if (why.isEmpty())
    for (const acre::Rect& area : proof_->areas) step.compared += area.width * area.length;
  else
    step.sentence = tr("A second process was not asked: %1").arg(why).toStdString();
  proof_->steps.push_back(std::move(step));
  progress_->hide();
  stopButton_->setEnabled(false);
  show_();
}

void ProofPanel::show_() {
  int64_t cells = 0;
  for (const acre::ProofStep& step : proof_->steps) cells += step.compared;
  verdict_->setText(
      proof_->holds()
          ? tr("It holds: %1 cells compared, every one equal.").arg(look::wholeNumber(cells))
          : tr("It is BROKEN: two ways of asking give different cells."));
  fingerprint_->setText(tr("World %1").arg(QString::fromStdString(proof_->world.hex())));
  table_->setRowCount(static_cast<int>(proof_->steps.size()));
  difference_->clear();
  for (int line = 0; line < table_->rowCount(); ++line) {
    const acre::ProofStep& step = proof_->steps[static_cast<size_t>(line)];
    auto* name = new QTableWidgetItem(QString::fromStdString(step.sentence));
    name->setToolTip(name->text());
    table_->setItem(line, 0, name);
    auto* count = new QTableWidgetItem(
        step.compared ? look::wholeNumber(step.compared) : QStringLiteral("–"));
    count->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    table_->setItem(line, 1, count);
    table_->setItem(line, 2,
        new QTableWidgetItem(!step.holds     ? tr("BROKEN")
                             : step.compared ? tr("holds")
                                             : QString()));
    if (!step.difference || !difference_->text().isEmpty()) continue;
    const acre::ProofDifference& d = *step.difference;
    difference_->setText(
        tr("First at %1, %2. %3: %4. %5: %6.")
            .arg(look::wholeNumber(d.cell.x), look::wholeNumber(d.cell.z),
                QString::fromStdString(d.one), QString::fromStdString(d.oneSays),
                QString::fromStdString(d.other), QString::fromStdString(d.otherSays)));
  }
  table_->setFixedHeight(table_->horizontalHeader()->sizeHint().height() +
                         table_->rowCount() * table_->verticalHeader()->defaultSectionSize() + 4);
  fingerprint_->show();
  table_->show();
  difference_->setVisible(!proof_->holds());
  go_->setVisible(!difference_->text().isEmpty());
}

}  // namespace app

#include "moc_proof_panel.cpp"
