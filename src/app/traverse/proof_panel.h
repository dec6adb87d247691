/// Proves the world in the background and shows every step.
#pragma once

#include <QLabel>
#include <QProcess>
#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>
#include <QWidget>
#include <optional>
#include <thread>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/document/worker.h"
#include "audit/proof.h"

namespace app {

class ProofPanel : public QWidget {
  Q_OBJECT

 public:
  explicit ProofPanel(Document& document, QWidget* parent = nullptr);
  ~ProofPanel() override;

  void start();
  void stop();
  bool running() const { return running_; }
  const std::optional<acre::Proof>& proof() const { return proof_; }

 signals:
  void goToRequested(qint64 x, qint64 z);
  void commandRequested();

 private:
  void show_();
  void askSecondProcess();
  void fileProcess(bool holds, const QString& why);

  Document& document_;
  std::shared_ptr<Courier<ProofPanel>> courier_;
  Worker worker_;
  QProcess other_;
  uint64_t request_ = 0;
  bool running_ = false;
  std::optional<acre::Proof> proof_;
  QString source_;  // What a second process can open; empty: nothing.

  QPushButton* start_;
  QPushButton* stopButton_;
  QProgressBar* progress_;
  QLabel* verdict_;
  QLabel* fingerprint_;
  QTableWidget* table_;
  QLabel* difference_;
  QPushButton* go_;
};

}  // namespace app
