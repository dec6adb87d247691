/// Goes through numbered steps: back, on, playing, by a slider.
#pragma once

#include <QKeyEvent>
#include <QPushButton>
#include <QSlider>
#include <QTimer>
#include <QWidget>

#include "app/edit/choice.h"

namespace app {

/// Space plays and pauses, Left and Right step, Home and End go to the ends, for whoever hands the
/// keys on.
class Transport : public QWidget {
  Q_OBJECT

 public:
  /// name: before ".play", ".back", ".step", ".speed" and ".scrub".
  explicit Transport(const QString& name, QWidget* parent = nullptr);

  int steps() const { return scrub_->maximum(); }
  int step() const { return scrub_->value(); }
  bool playing() const { return timer_.isActive(); }
  /// Of so many steps one is shown; tells nobody.
  void set(int steps, int step);
  /// To a step, the nearest that there is; moved() tells of it, even where it was shown already.
  void go(int step);
  void play(bool on);
  /// Whether it was one of the keys.
  bool press(const QKeyEvent& key);

 signals:
  void moved(int step);

 private:
  QTimer timer_;
  QPushButton* play_;
  Choice* speed_;
  QSlider* scrub_;
};

}  // namespace app
