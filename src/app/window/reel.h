/// A column of buttons that scrolls where there are more than fit.
#pragma once

#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>
#include <QWidget>

namespace app {

/// Two small buttons show where there is more; the wheel turns it, and a button that takes the
/// focus comes into sight.
class Reel : public QWidget {
  Q_OBJECT

 public:
  explicit Reel(QWidget* parent = nullptr);
  void add(QWidget* button);
  /// Whether there is more than is seen.
  bool overflows() const;

 protected:
  bool eventFilter(QObject*, QEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  void turn(int by);
  void follow();

  QScrollArea* page_;
  QVBoxLayout* column_;
  QToolButton* up_;
  QToolButton* down_;
};

}  // namespace app
