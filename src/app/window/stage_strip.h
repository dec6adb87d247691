/// The stages of the recipe as a row of tiles; the chosen one has its editor beside the map.
#pragma once

#include <QAbstractButton>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/map/geometry.h"

namespace app {

enum class Stage { Frame, Heights, Strata };
inline constexpr int kStages = 3;

class StageTile : public QAbstractButton {
  Q_OBJECT

 public:
  StageTile(const QString& name, QWidget* parent);
  void setPicture(const QImage& picture);
  void setNote(const QString& note);
  static constexpr QSize kTileSize{150, 48};
  QSize sizeHint() const override { return kTileSize; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }

 private:
  QImage picture_;
  QString note_;
};

class StageStrip : public QWidget {
  Q_OBJECT

 public:
  explicit StageStrip(Document& document, QWidget* parent = nullptr);
  ~StageStrip() override;

  Stage chosen() const { return chosen_; }
  void choose(Stage stage);
  /// The tiles' pictures show this part of the world.
  void setView(const MapGeometry& geometry);
  void refresh();
  void setBusy(bool busy);

 signals:
  void stageChosen(Stage stage);

 protected:
  void paintEvent(QPaintEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void requestPictures();

  Document& document_;
  std::vector<StageTile*> tiles_;
  Stage chosen_ = Stage::Heights;
  MapGeometry geometry_;
  std::shared_ptr<Courier<StageStrip>> courier_;
  std::stop_source stop_;
  uint64_t request_ = 0;
  bool busy_ = false;
};

}  // namespace app
