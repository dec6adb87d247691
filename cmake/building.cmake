# How sources are compiled. Release and check builds compile them in batches behind precompiled headers
# (CMAKE_UNITY_BUILD, ACRE_PRECOMPILE); dev builds one by one, so that an edit costs one file.
option(ACRE_PRECOMPILE "Compile behind precompiled headers" OFF)

# ccache is used where it is installed; it must be told how GCC keeps precompiled headers.
find_program(ACRE_CCACHE ccache)
if(ACRE_CCACHE AND NOT CMAKE_CXX_COMPILER_LAUNCHER)
  set(CMAKE_CXX_COMPILER_LAUNCHER ${CMAKE_COMMAND} -E env CCACHE_SLOPPINESS=pch_defines,time_macros,include_file_mtime
                                  CCACHE_BASEDIR=${PROJECT_SOURCE_DIR} CCACHE_NOHASHDIR=1 ${ACRE_CCACHE})
  if(ACRE_PRECOMPILE)
    add_compile_options(-fpch-preprocess)
  endif()
endif()

# acre_precompile(TARGET HEADERS...): headers that most sources of a target start with.
function(acre_precompile target)
  if(ACRE_PRECOMPILE)
    target_precompile_headers(${target} PRIVATE ${ARGN})
  endif()
endfunction()

# acre_check_headers(NAME TARGET FOLDER): compiles every header below a folder on its own, with what TARGET
# is compiled with, so that none leans on what stood before it. Not part of a build unless asked for.
function(acre_check_headers name target folder)
  file(GLOB_RECURSE headers CONFIGURE_DEPENDS RELATIVE ${folder} ${folder}/*.h)
  set(sources)
  foreach(header IN LISTS headers)
    set(source ${CMAKE_CURRENT_BINARY_DIR}/${name}/${header}.cpp)
    if(NOT EXISTS ${source})
      file(WRITE ${source} "#include \"${folder}/${header}\"\n")
    endif()
    list(APPEND sources ${source})
  endforeach()
  add_library(${name} OBJECT EXCLUDE_FROM_ALL ${sources})
  target_link_libraries(${name} PRIVATE ${target})
  target_compile_options(${name} PRIVATE -fsyntax-only)
  set_target_properties(${name} PROPERTIES UNITY_BUILD OFF AUTOMOC OFF)
endfunction()
