/// Waits that allow for a machine that is busy with something else: what comes, comes within a
/// minute, and a test that fails says so after one.
#pragma once

#include <QtTest>

#undef QTRY_VERIFY
#undef QTRY_COMPARE
#define QTRY_VERIFY(expression) QTRY_VERIFY_WITH_TIMEOUT((expression), 60000)
#define QTRY_COMPARE(actual, expected) QTRY_COMPARE_WITH_TIMEOUT(actual, expected, 60000)
