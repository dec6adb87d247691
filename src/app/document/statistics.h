/// Shares of the world, measured in the background whenever its heights change.
#pragma once

#include <QObject>
#include <QTimer>
#include <memory>
#include <stop_token>

#include "app/document/courier.h"
#include "app/document/document.h"
#include "world/shares.h"

namespace app {

class Statistics : public QObject {
  Q_OBJECT

 public:
  explicit Statistics(Document& document, QObject* parent = nullptr);
  ~Statistics() override;

  /// The sample of the present heights, or of those before while a new one is being taken.
  const std::shared_ptr<const acre::HeightSample>& sample() const { return sample_; }
  bool current() const { return key_ == sampledKey_; }

  /// "of the endless world" or "of all 10,000 cells".
  QString scope() const;

 signals:
  void changed();

 private:
  void worldChanged();
  void takeSample();

  Document& document_;
  std::shared_ptr<Courier<Statistics>> courier_;
  std::stop_source stop_;
  QTimer pause_;  // A number that is being dragged is measured when it rests.
  acre::Digest key_;
  acre::Digest sampledKey_;
  std::shared_ptr<const acre::HeightSample> sample_;
};

}  // namespace app
