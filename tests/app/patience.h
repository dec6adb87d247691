/// Waits that allow for a machine that is busy with something else: what comes, comes within a
/// minute, and a test that fails says so after one.
#pragma once

#include <QElapsedTimer>
#include <QtTest>

#undef QTRY_VERIFY
#undef QTRY_COMPARE
#define QTRY_VERIFY(expression) QTRY_VERIFY_WITH_TIMEOUT((expression), 60000)
#define QTRY_COMPARE(actual, expected) QTRY_COMPARE_WITH_TIMEOUT(actual, expected, 60000)

/// Waits until a value has stayed the same for so long; false when it has not within a minute.
template <class Value>
bool staysFor(int milliseconds, Value&& value) {
  QElapsedTimer all, still;
  all.start();
  still.start();
  auto last = value();
  while (still.elapsed() < milliseconds) {
    QTest::qWait(5);
    if (auto now = value(); !(now == last)) {
      last = std::move(now);
      still.restart();
    }
    if (all.elapsed() > 60000) return false;
  }
  return true;
}
