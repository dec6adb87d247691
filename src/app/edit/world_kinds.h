/// What a world can be, as pictures: the kinds, and the starts that new worlds may begin with.
#pragma once

#include <QButtonGroup>
#include <QWidget>
#include <vector>

#include "app/document/document.h"
#include "app/document/probe.h"
#include "app/edit/picture_button.h"

namespace app {

/// One of the four kinds.
class KindPictures : public QWidget {
  Q_OBJECT

 public:
  explicit KindPictures(QWidget* parent = nullptr);
  void show(acre::WorldKind kind);

 signals:
  void chosen(acre::WorldKind kind);

 private:
  QButtonGroup group_;
};

/// Recipes of ours that a new world may go on from. Read and painted by the executor when they are
/// first seen.
class StartPictures : public QWidget {
  Q_OBJECT

 public:
  explicit StartPictures(Document& document, QWidget* parent = nullptr);

 signals:
  void chosen(const QString& start);

 protected:
  void showEvent(QShowEvent*) override;

 private:
  Document& document_;
  std::vector<PictureButton*> buttons_;  ///< In the order of acre::starts().
  struct Seen {
    QString name;
    QImage picture;
  };
  static std::vector<Seen> seenOf(acre::Engine& engine);
  Probe<std::vector<Seen>> probe_;
  bool asked_ = false;
};

}  // namespace app
