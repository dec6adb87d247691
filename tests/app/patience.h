/// Waits that allow for a machine that is busy with something else: what comes, comes within two
/// minutes, and a test that fails says so after as many.
#pragma once

#include <QElapsedTimer>
#include <QtTest>

#undef QTRY_VERIFY
#undef QTRY_COMPARE
#define QTRY_VERIFY(expression) QTRY_VERIFY_WITH_TIMEOUT((expression), 120000)
#define QTRY_COMPARE(actual, expected) QTRY_COMPARE_WITH_TIMEOUT(actual, expected, 120000)

/// Waits until a value has stayed the same for so long; false when it has not within two minutes.
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
    if (all.elapsed() > 120000) return false;
  }
  return true;
}
