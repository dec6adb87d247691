# One interface target carries the compile rules of the whole project.
add_library(acre_rules INTERFACE)
target_compile_options(acre_rules INTERFACE -Wall -Wextra -Wpedantic -Wconversion)
if(CMAKE_SYSTEM_PROCESSOR STREQUAL "aarch64")
  # GCC 10 passes pairs otherwise than GCC 9 did; nothing here was ever built by GCC 9.
  target_compile_options(acre_rules INTERFACE -Wno-psabi)
endif()
if(ACRE_WERROR)
  target_compile_options(acre_rules INTERFACE -Werror)
endif()
# a*b+c has two legal results when the compiler may fuse it; the same bits everywhere need one.
target_compile_options(acre_rules INTERFACE -ffp-contract=off)
if(ACRE_SANITIZE)
  target_compile_options(acre_rules INTERFACE -fsanitize=${ACRE_SANITIZE} -fno-omit-frame-pointer
                                             -fno-sanitize-recover=all)
  target_link_options(acre_rules INTERFACE -fsanitize=${ACRE_SANITIZE})
endif()
