/// Objects around the viewpoint: those that have to be there, square by square, and the nearest of
/// each other kind.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <QWidget>
#include <stop_token>
#include <vector>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/edit/choice.h"
#include "app/map/map_view.h"
#include "audit/object_landmarks.h"

namespace app {

class ObjectsList : public QWidget {
  Q_OBJECT

 public:
  ObjectsList(Document& document, MapView& map, QWidget* parent = nullptr);
  ~ObjectsList() override;
  void refresh();
  bool settled() const { return !searching_; }
  const std::vector<acre::ObjectLandmark>& found() const { return found_; }
  QTableWidget& table() { return *table_; }

 signals:
  void goToRequested(qint64 x, qint64 z);
  /// A plumb line there, which says why.
  void askRequested(qint64 x, qint64 z);
  void commandRequested(const QString& rest);

 protected:
  void showEvent(QShowEvent*) override;

 private:
  void buildHead(QVBoxLayout* column);
  void buildTable(QVBoxLayout* column);
  void buildButtons(QVBoxLayout* column);
  void search();
  void list();
  /// Of the chosen row; nothing: none is.
  const acre::ObjectLandmark* chosen() const;

  Document& document_;
  MapView& map_;
  std::shared_ptr<Courier<ObjectsList>> courier_;
  std::shared_ptr<const acre::World> searched_;
  std::vector<acre::ObjectLandmark> found_;
  std::stop_source stop_;
  uint64_t request_ = 0;
  bool searching_ = false;
  acre::Cell from_;
  Choice* within_;
  QLabel* headline_;
  QTableWidget* table_;
  QPushButton *goTo_, *ask_;
};

}  // namespace app
