/// What was refused, and why, where the editor begins.
#pragma once

#include <QLabel>
#include <QWidget>

namespace app {

/// The warning mark: ochre, a stake with a bar.
class WarningMark : public QWidget {
 public:
  explicit WarningMark(QWidget* parent = nullptr);

 protected:
  void paintEvent(QPaintEvent*) override;
};

/// One sentence, of what is wrong beside the warning mark; out of sight while there is none.
class Notice : public QWidget {
 public:
  explicit Notice(QWidget* parent = nullptr);

  void warn(const QString& sentence);
  void tell(const QString& sentence);
  void clear();
  QString text() const { return words_->text(); }

 private:
  WarningMark* mark_;
  QLabel* words_;
};

}  // namespace app
