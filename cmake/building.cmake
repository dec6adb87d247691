# How sources are compiled. Release and check builds compile them in batches behind precompiled headers
# (CMAKE_UNITY_BUILD, ACRE_PRECOMPILE); dev builds one by one, so that an edit costs one file.
option(ACRE_PRECOMPILE "Compile behind precompiled headers" OFF)

# ccache is used where it is installed; it must be told how GCC keeps precompiled headers.
if(ACRE_CCACHE AND NOT EXISTS "${ACRE_CCACHE}")
  unset(ACRE_CCACHE CACHE)  # It was uninstalled since.
endif()
find_program(ACRE_CCACHE ccache)
if(ACRE_CCACHE AND NOT CMAKE_CXX_COMPILER_LAUNCHER)
  set(CMAKE_CXX_COMPILER_LAUNCHER ${CMAKE_COMMAND} -E env CCACHE_SLOPPINESS=pch_defines,time_macros,include_file_mtime
                                  CCACHE_BASEDIR=${PROJECT_SOURCE_DIR} CCACHE_NOHASHDIR=1 ${ACRE_CCACHE})
  if(ACRE_PRECOMPILE)
    add_compile_options(-fpch-preprocess)
  endif()
endif()

# For what is made of words and widgets, where no loop counts: it compiles in half the time. What may be uninitialized
# is said of standard headers at this level; dev builds look for it.
set(ACRE_QUICKLY $<$<CONFIG:Release>:-Og> $<$<CONFIG:Release>:-Wno-maybe-uninitialized>)

# The compiler tidies its memory again and again, for up to a fifth of its time. It need not where there is room.
include(ProcessorCount)
ProcessorCount(processors)
cmake_host_system_information(RESULT memory QUERY TOTAL_PHYSICAL_MEMORY)
math(EXPR memory "${memory} / (${processors} + 2)")  # MiB for each that Ninja runs.
if(CMAKE_CXX_COMPILER_ID STREQUAL GNU AND memory GREATER 2400)
  add_compile_options(--param=ggc-min-heapsize=1500000)
elseif(CMAKE_CXX_COMPILER_ID STREQUAL GNU AND memory GREATER 1000)
  add_compile_options(--param=ggc-min-heapsize=400000)
endif()

# acre_precompile(TARGET HEADERS...): headers that most sources of a target start with.
function(acre_precompile target)
  if(ACRE_PRECOMPILE)
    target_precompile_headers(${target} PRIVATE ${ARGN})
  endif()
endfunction()

# acre_check_headers(TARGET FOLDER PREFIX): the target `headers` compiles every header below a folder on its own,
# with what TARGET is compiled with, so that none leans on what stood before it. PREFIX: what stands before its
# path where it is included. -inl.h files are bodies, not headers.
add_custom_target(headers)
function(acre_check_headers target folder prefix)
  file(GLOB_RECURSE headers CONFIGURE_DEPENDS RELATIVE ${folder} ${folder}/*.h)
  list(FILTER headers EXCLUDE REGEX "-inl[.]h$")
  set(sources)
  foreach(header IN LISTS headers)
    set(source ${CMAKE_CURRENT_BINARY_DIR}/headers/${header}.cpp)
    file(CONFIGURE OUTPUT ${source} CONTENT "#include \"${prefix}${header}\"\n" @ONLY)
    list(APPEND sources ${source})
  endforeach()
  add_library(${target}_headers OBJECT EXCLUDE_FROM_ALL ${sources})
  target_link_libraries(${target}_headers PRIVATE ${target} ${ARGN})
  target_compile_options(${target}_headers PRIVATE -O0)
  set_target_properties(${target}_headers PROPERTIES UNITY_BUILD OFF AUTOMOC OFF)
  add_dependencies(headers ${target}_headers)
endfunction()

# acre_batches(TARGET): in builds by batches the sources of one folder are one batch, so that what clashes are
# neighbours, and a new file elsewhere moves nothing.
function(acre_batches target)
  get_target_property(sources ${target} SOURCES)
  foreach(source IN LISTS sources)
    if(source MATCHES "^([a-z]+)/[^/]+\\.cpp$")
      set_source_files_properties(${source} PROPERTIES UNITY_GROUP ${CMAKE_MATCH_1})
    endif()
  endforeach()
  set_target_properties(${target} PROPERTIES UNITY_BUILD_MODE GROUP)
endfunction()

# acre_moc_apart(TARGETS...): moc finds the classes of a source by its own words, and needs no header that it includes. To
# read all of these takes a hundred times as long, so paths to them are kept from it.
function(acre_moc_apart)
  get_target_property(moc Qt6::moc IMPORTED_LOCATION)
  set(script ${PROJECT_BINARY_DIR}/moc.sh)
  file(CONFIGURE OUTPUT ${script} @ONLY NEWLINE_STYLE UNIX CONTENT [=[
#!/bin/sh
for word; do
  shift
  case "$word" in -I*|-isystem*) ;; *) set -- "$@" "$word" ;; esac
done
exec "@moc@" "$@"
]=])
  file(CHMOD ${script} PERMISSIONS OWNER_READ OWNER_WRITE OWNER_EXECUTE GROUP_READ GROUP_EXECUTE WORLD_READ WORLD_EXECUTE)
  set_target_properties(${ARGN} PROPERTIES AUTOMOC_EXECUTABLE ${script})
endfunction()
