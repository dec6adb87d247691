/// Tests are classes of Qt Test. Those of one layer share a program; each is an entry of ctest,
/// called by the name of its file: `core_tests world_test [functions and options of Qt Test]`.
#pragma once

#include <QObject>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace suite {

/// One entry of a program.
struct Entry {
  std::string name;
  std::function<std::unique_ptr<QObject>()> make;  ///< Nothing: `run` instead.
  std::function<int()> run = {};                   ///< What a test starts as a process of its own.
};

/// All that the program's files have put in.
std::vector<Entry>& entries();

/// The stem of a file's name.
std::string stemOf(const char* file);

/// How often something random is tried: less in the usual run than in the full one (ACRE_FULL is
/// set), which tests/README.md lists.
int sized(int usual, int full);

struct Registered {
  explicit Registered(Entry entry) { entries().push_back(std::move(entry)); }
};

}  // namespace suite

/// Makes a class an entry; stands at the end of its file.
#define ACRE_SUITE(Class)                                             \
  static const suite::Registered registered({suite::stemOf(__FILE__), \
      [] { return std::unique_ptr<QObject>(std::make_unique<Class>()); }});
