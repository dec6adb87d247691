/// A picture to choose, with its name below.
#pragma once

#include <QAbstractButton>
#include <QImage>

namespace app {

class PictureButton : public QAbstractButton {
  Q_OBJECT

 public:
  /// picture: its size, in pixels at 96 dpi.
  PictureButton(const QString& text, const QString& name, QSize picture, QWidget* parent = nullptr);
  void setPicture(const QImage& picture);
  bool hasPicture() const { return !picture_.isNull(); }
  QSize sizeHint() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }

 private:
  QSize size_;
  QImage picture_;
};

}  // namespace app
