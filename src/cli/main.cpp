#include <unistd.h>

#include <iostream>

#include "cli/run.h"

int main(int argc, char** argv) {
  std::ios::sync_with_stdio(false);
  const int code = acre::cli::run({argv + 1, argv + argc}, std::cout, std::cerr, isatty(2) == 1,
                                  "/proc/self/exe");
  std::cout.flush();
  if (std::cout) return code;
  std::cerr << "standard output: cannot write\n";
  return 2;
}
