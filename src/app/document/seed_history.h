/// All seeds that were looked at, in the order in which they came; none is ever lost.
#pragma once

#include <QStringList>

namespace app {

class SeedHistory {
 public:
  static constexpr int kKept = 10'000;

  explicit SeedHistory(const QStringList& seeds = {})
      : seeds_(seeds), at_(static_cast<int>(seeds.size()) - 1) {}

  /// Notes the seed in use: goes to its place when it is known, else appends it.
  void visit(const QString& seed) {
    at_ = static_cast<int>(seeds_.lastIndexOf(seed));
    if (at_ >= 0) return;
    seeds_.append(seed);
    while (seeds_.size() > kKept) seeds_.removeFirst();
    at_ = static_cast<int>(seeds_.size()) - 1;
  }
  /// The seed before or after the present one; null at the ends.
  QString earlier() const { return at_ > 0 ? seeds_[at_ - 1] : QString(); }
  QString later() const { return at_ + 1 < seeds_.size() ? seeds_[at_ + 1] : QString(); }

  bool contains(const QString& seed) const { return seeds_.contains(seed); }
  const QStringList& seeds() const { return seeds_; }
  int place() const { return at_; }

 private:
  QStringList seeds_;
  int at_ = -1;
};

}  // namespace app
