/// The walk view with its row of tools.
#pragma once

#include <QToolButton>
#include <QWidget>

#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/walk/walk_view.h"

namespace app {

class WalkPane : public QWidget {
  Q_OBJECT

 public:
  explicit WalkPane(Document& document, QWidget* parent = nullptr);
  WalkView& view() { return *view_; }
  void refresh();
  /// Switches the lamp on.
  void lightLamp();
  /// How one moves, what is drawn and how fast, in words.
  QString figures() const;

 private:
  QToolButton* addButton(const QString& text, const QString& name, const QString& tip);

  Document& document_;
  WalkView* view_;
  QWidget* bar_;
  QToolButton* fly_;
  QToolButton* foot_;
  std::array<QToolButton*, 3> tools_{};
  Choice* material_;
  NumberField* brush_;
};

}  // namespace app
