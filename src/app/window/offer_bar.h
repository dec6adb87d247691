/// A sentence over a widget, with what can be done about it.
#pragma once

#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <functional>
#include <vector>

namespace app {

/// Lies over the upper edge of a widget and moves nothing; out of sight while there is nothing to
/// say.
class OfferBar : public QFrame {
 public:
  /// over: what it lies on.
  explicit OfferBar(QWidget* over);

  struct Choice {
    QString words;
    const char* name;  ///< Of its button.
    std::function<void()> act;
  };
  /// Whatever is chosen, the bar goes.
  void offer(const QString& sentence, const std::vector<Choice>& choices);
  QString text() const { return isVisible() ? words_->text() : QString(); }

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void arrange();

  QHBoxLayout* row_;
  QLabel* words_;
  std::vector<QWidget*> buttons_;
};

}  // namespace app
