/// Questions that come faster than they can be answered: only the newest is.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <optional>
#include <utility>

#include "app/document/courier.h"
#include "base/executor.h"

namespace app {

/// Asks on the executor, one question at a time; of those that come while one is being answered the
/// last waits, the others are dropped. The interface thread never waits.
template <class Answer>
class Probe : public QObject {
 public:
  using Ask = std::function<Answer()>;
  using Hear = std::function<void(const Answer&)>;

  explicit Probe(acre::Executor& executor, acre::Priority priority = acre::Priority::Compile)
      : executor_(executor),
        priority_(priority),
        courier_(std::make_shared<Courier<Probe>>(this)) {}
  ~Probe() override { courier_->close(); }

  /// hear is called on this thread with what ask found elsewhere; not after forget().
  void ask(Ask ask, Hear hear) {
    next_ = Question{std::move(ask), std::move(hear)};
    if (!busy_) start();
  }
  /// What was asked is not wanted any more.
  void forget() {
    next_.reset();
    ++request_;
  }
  bool settled() const { return !busy_ && !next_; }

 private:
  struct Question {
    Ask ask;
    Hear hear;
  };
  void start() {
    busy_ = true;
    executor_.submit(
        priority_, [courier = courier_, question = *std::exchange(next_, {}), request = request_] {
          auto answer = std::make_shared<const Answer>(question.ask());
          courier->deliver([question, answer, request](Probe& self) {
            self.busy_ = false;
            if (request == self.request_) question.hear(*answer);
            if (!self.busy_ && self.next_) self.start();
          });
        });
  }

  acre::Executor& executor_;
  acre::Priority priority_;
  std::shared_ptr<Courier<Probe>> courier_;
  std::optional<Question> next_;
  uint64_t request_ = 0;
  bool busy_ = false;
};

}  // namespace app
