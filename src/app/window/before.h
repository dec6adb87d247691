/// "Before": the map shows the world as it was before the last change while a key is held.
#pragma once

#include <QObject>
#include <memory>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "app/map/map_view.h"

namespace app {

class Before : public QObject {
  Q_OBJECT

 public:
  Before(Document& document, MapView& map);
  ~Before() override;

  bool shown() const { return shown_; }
  void show(bool held);

 signals:
  void said(const QString& text);  ///< What is shown, and how much differs.
  void ended();
  void refused(const QString& reason);

 private:
  Document& document_;
  MapView& map_;
  std::shared_ptr<Courier<Before>> courier_;
  bool shown_ = false;
  int request_ = 0;
};

}  // namespace app
