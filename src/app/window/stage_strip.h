/// The stages of the recipe as a row of tiles; the chosen one has its editor beside the map.
#pragma once

#include <QAbstractButton>
#include <array>
#include <memory>
#include <optional>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/document/statistics.h"
#include "app/map/geometry.h"
#include "app/window/stage_table.h"
#include "recipe/stages.h"

namespace app {

class StageTile : public QAbstractButton {
  Q_OBJECT

 public:
  StageTile(const QString& name, QWidget* parent);
  void setPicture(const QImage& picture);
  void setNote(const QString& note);
  /// One mark: how many checks found something; 0: none.
  void setFound(int checks);
  void setOff(bool off);
  static constexpr QSize kTileSize{146, 48}, kTallSize{192, 104};
  static constexpr QSize kPicture{52, 36}, kTallPicture{176, 72};
  /// Tall: a large picture stands above the words.
  void setTall(bool tall);
  /// Narrower, the picture shows its middle alone.
  static constexpr int kNarrowest = 104;
  QSize sizeHint() const override { return tall_ ? kTallSize : kTileSize; }
  QSize minimumSizeHint() const override { return {kNarrowest, sizeHint().height()}; }
  /// Pixels that its name may take.
  int nameRoom() const;
  /// Where the mark is; empty while there is none.
  QRect markRect() const;

 signals:
  void markClicked();

 protected:
  void paintEvent(QPaintEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }

 private:
  bool narrow() const { return !tall_ && width() < 130; }
  QRect pictureRect() const;

  QImage picture_;
  QString note_;
  int found_ = 0;
  bool off_ = false;
  bool tall_ = false;
};

class StageStrip : public QWidget {
  Q_OBJECT

 public:
  explicit StageStrip(Document& document, QWidget* parent = nullptr);
  ~StageStrip() override;

  StageId chosen() const { return chosen_; }
  void choose(StageId stage);
  /// Those that the kind of world has, in order.
  std::vector<StageId> shown() const;
  /// The one so many further on; nothing beyond the ends.
  std::optional<StageId> beside(int by) const;
  /// The tiles' pictures show this part of the world.
  void setView(const MapGeometry& geometry);
  void setTall(bool tall);
  void refresh();
  void setBusy(bool busy);
  /// Counts of what the checks found, and what stages cost.
  void setFigures(const Statistics& statistics);

 signals:
  void stageChosen(StageId stage);
  void stageSwitched(StageId stage);  ///< On or off.
  void findingsRequested(StageId stage);

 protected:
  void paintEvent(QPaintEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void requestPictures();
  void showSigns();
  void showTips();
  QSize pictureSize() const { return tall_ ? StageTile::kTallPicture : StageTile::kPicture; }
  StageTile* tile(StageId stage) const { return tiles_[static_cast<size_t>(stage)]; }

  Document& document_;
  std::vector<StageTile*> tiles_;               // By stage.
  std::array<int, acre::kStageCount> found_{};  // By stage, what the checks found.
  QString cost_;                                // Of the heights.
  StageId chosen_ = StageId::Heights;
  MapGeometry geometry_;
  std::shared_ptr<Courier<StageStrip>> courier_;
  std::stop_source stop_;
  uint64_t request_ = 0;
  bool busy_ = false;
  bool tall_ = false;
};

}  // namespace app
