/// The stages of the recipe as a row of tiles; the chosen one has its editor beside the map.
#pragma once

#include <QAbstractButton>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/document/statistics.h"
#include "app/map/geometry.h"

namespace app {

/// Caves: what is dug out of the ground; in levels the floor takes its place.
enum class Stage { Frame, Heights, Climate, Biomes, Strata, Caves };
inline constexpr int kStages = 6;

class StageTile : public QAbstractButton {
  Q_OBJECT

 public:
  StageTile(const QString& name, QWidget* parent);
  void setPicture(const QImage& picture);
  void setNote(const QString& note);
  /// One mark: how many checks found something; 0: none.
  void setFound(int checks);
  void setOff(bool off);
  static constexpr QSize kTileSize{146, 48};
  QSize sizeHint() const override { return kTileSize; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }

 private:
  QImage picture_;
  QString note_;
  int found_ = 0;
  bool off_ = false;
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
  /// Counts of what the checks found, and what stages cost.
  void setFigures(const Statistics& statistics);

 signals:
  void stageChosen(Stage stage);
  void stageSwitched(Stage stage);  ///< On or off.

 protected:
  void paintEvent(QPaintEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void requestPictures();

  Document& document_;
  std::vector<StageTile*> tiles_;
  QStringList tips_;
  Stage chosen_ = Stage::Heights;
  MapGeometry geometry_;
  std::shared_ptr<Courier<StageStrip>> courier_;
  std::stop_source stop_;
  uint64_t request_ = 0;
  bool busy_ = false;
};

}  // namespace app
