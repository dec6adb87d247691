#include <unistd.h>

#include <iostream>

#include "base/process.h"
#include "cli/run.h"

int main(int argc, char** argv) {
  std::ios::sync_with_stdio(false);
  if (const acre::Status ready = acre::prepareProcess(); !ready) {
    std::cerr << "acre: " << ready.error().text() << "\n";
    return 2;
  }
  const int code = acre::cli::run(
      {argv + 1, argv + argc}, std::cout, std::cerr, isatty(2) == 1, "/proc/self/exe");
  std::cout.flush();
  if (std::cout) return code;
  std::cerr << "acre: standard output: cannot write\n";
  return 2;
}
