# One interface target carries the compile rules of the whole project.
add_library(acre_rules INTERFACE)
target_compile_options(acre_rules INTERFACE -Wall -Wextra -Wpedantic -Wconversion)
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
