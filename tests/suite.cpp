#include "suite.h"

#include <QtTest>
#include <algorithm>
#include <cstdio>
#include <filesystem>

#ifdef ACRE_SUITE_OF_WIDGETS
#include <QApplication>
using Application = QApplication;
#else
#include <QCoreApplication>
using Application = QCoreApplication;
#endif

namespace suite {

std::vector<Entry>& entries() {
  static std::vector<Entry> all;
  return all;
}

int sized(int usual, int full) {
  return qEnvironmentVariableIsSet("ACRE_FULL") ? full : usual;
}

std::string stemOf(const char* file) {
  return std::filesystem::path(file).stem().string();
}

}  // namespace suite

// With no entry named, lists them.
int main(int argc, char** argv) {
  const std::string wanted = argc > 1 ? argv[1] : "";
  auto& all = suite::entries();
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const suite::Entry& e) { return e.name == wanted; });
  if (found == all.end()) {
    std::sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.name < b.name; });
    for (const suite::Entry& entry : all) std::puts(entry.name.c_str());
    return wanted.empty() ? 0 : 2;
  }
  // Qt's watchdog allows five minutes a function, but where one ends as the next begins it may miss
  // that and count on: a long class would be ended for nothing. ctest has a limit of its own.
  if (!qEnvironmentVariableIsSet("QTEST_FUNCTION_TIMEOUT"))
    qputenv("QTEST_FUNCTION_TIMEOUT", QByteArrayLiteral("1100000"));
  std::vector<char*> arguments{argv[0]};
  arguments.insert(arguments.end(), argv + 2, argv + argc);
  arguments.push_back(nullptr);
  int count = static_cast<int>(arguments.size()) - 1;
  Application application(count, arguments.data());
  if (found->run) return found->run();
  const std::unique_ptr<QObject> test = found->make();
  return QTest::qExec(test.get(), count, arguments.data());
}
