/// What the map shows of the document's world.
#pragma once

#include <QObject>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/map/map_view.h"
#include "app/window/legend_card.h"
#include "app/window/view_state.h"
#include "recipe/stages.h"

namespace app {

/// A picture, and the last of the stages that it is of. A world without its later stages is
/// another world: it is compiled on the executor, and the map keeps what it shows until it is
/// there.
class Showing : public QObject {
  Q_OBJECT

 public:
  static constexpr auto kAll = static_cast<acre::StageId>(acre::kStageCount - 1);

  Showing(Document& document, MapView& map, LegendCard& legend);
  ~Showing() override;

  void setPicture(const acre::Picture& picture);
  void setUpTo(acre::StageId last);
  void setBorders(bool shown);
  /// What is on the map.
  ViewState state() const;
  /// Shows the same again, of the document's present world.
  void show(const ViewState& state);
  /// The world changed, or something else was on the map.
  void refresh();
  /// Legends tell what is approximate at the scale of the map.
  void refreshLegend();

 signals:
  void pictureChanged();
  void refused(const QString& reason);

 private:
  void put(const std::shared_ptr<const acre::World>& world);
  QString emptyNote(const acre::World& world, const acre::Picture& picture) const;

  Document& document_;
  MapView& map_;
  LegendCard& legend_;
  std::shared_ptr<Courier<Showing>> courier_;
  std::stop_source stop_;
  std::shared_ptr<const acre::World> world_;  ///< On the map.
  acre::Picture chosen_;
  acre::StageId upTo_ = kAll;
  bool borders_ = false;
};

}  // namespace app
