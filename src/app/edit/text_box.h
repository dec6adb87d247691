/// Some lines of text that are taken over when they are left.
#pragma once

#include <QPlainTextEdit>
#include <QWheelEvent>

namespace app {

class TextBox : public QPlainTextEdit {
  Q_OBJECT

 public:
  using QPlainTextEdit::QPlainTextEdit;

 signals:
  void left();

 protected:
  void focusOutEvent(QFocusEvent* e) override {
    QPlainTextEdit::focusOutEvent(e);
    emit left();
  }
  void wheelEvent(QWheelEvent* e) override {  // Pages scroll on over texts that are not typed in.
    hasFocus() ? QPlainTextEdit::wheelEvent(e) : e->ignore();
  }
};

}  // namespace app
