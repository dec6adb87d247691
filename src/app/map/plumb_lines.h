/// The plumb lines that hang on the map: which cells were asked about, and the card that answers.
#pragma once

#include <QObject>
#include <vector>

#include "app/document/document.h"
#include "app/document/probe.h"
#include "app/map/map_view.h"
#include "app/map/plumb_card.h"

namespace app {

class PlumbLines : public QObject {
  Q_OBJECT

 public:
  PlumbLines(Document& document, MapView& map);

  PlumbCard& card() { return *card_; }
  bool hanging() const { return !cells_.empty(); }
  /// The card tells of what was asked last.
  bool settled() const { return probe_.settled(); }

  /// Asks about a cell; second: what differs there from the one that hangs already.
  /// y: a block of its column; nothing: the uppermost one.
  void hang(acre::Cell cell, bool second, std::optional<int64_t> y = {});
  /// Back to the question before, or none.
  void goBack();
  void takeUp();
  /// Follows the document's world.
  void refresh();

 signals:
  void asked();
  void pointerChosen(const QString& pointer);
  void refused(const QString& reason);
  void copied(const QString& text, const QString& what);

 private:
  void place();
  void copy(const QString& form);

  Document& document_;
  MapView& map_;
  PlumbCard* card_;
  struct Asked {
    acre::Cell cell;
    std::optional<int64_t> y;
  };
  std::vector<Asked> cells_;
  std::optional<Asked> second_;
  struct Answer {
    std::shared_ptr<const acre::World> world;  ///< As long as the answer speaks of it.
    acre::Result<acre::Plumb> plumb;
    std::optional<acre::Plumb> second;
  };
  void show(const Answer& answer);
  Probe<Answer> probe_;
};

}  // namespace app
