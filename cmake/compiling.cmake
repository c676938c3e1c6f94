# How the compiler's time is spent, and saved.

# Headers that nearly every file of a target includes are read once. No file may count on it:
# `./dev lint` compiles without.
function(lattice_precompile target)
  target_precompile_headers(${target} PRIVATE
    <algorithm> <array> <cmath> <cstdint> <filesystem> <functional> <map> <memory> <optional>
    <span> <string> <string_view> <vector> <fmt/format.h> <fmt/ranges.h> ${ARGN})
  lattice_expects_precompiled(${target})
endfunction()

# The same with what another target has read, where both are compiled with the same options.
function(lattice_precompiled_by target other)
  target_precompile_headers(${target} REUSE_FROM ${other})
  lattice_expects_precompiled(${target})
endfunction()

function(lattice_expects_precompiled target)
  set_target_properties(${target} PROPERTIES UNITY_BUILD_MODE GROUP)
  if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
    # GCC 12 takes its own string header for ours once it is precompiled, and warns of copies in it
    # that are longer than memory (GCC bug 105651).
    target_compile_options(${target} PRIVATE -Wno-array-bounds -Wno-stringop-overflow)
  endif()
endfunction()

# lattice_in_one_piece(NAME [TAKE REGEX] [LEAVE REGEX] SOURCE…): these sources are compiled as one
# where CMAKE_UNITY_BUILD is on, so that what they include and instantiate is compiled once. A name
# that one of them has for itself has to differ from those of the others.
function(lattice_in_one_piece name)
  cmake_parse_arguments(arg "" "TAKE;LEAVE" "" ${ARGN})
  set(sources ${arg_UNPARSED_ARGUMENTS})
  if(arg_TAKE)
    list(FILTER sources INCLUDE REGEX "${arg_TAKE}")
  endif()
  if(arg_LEAVE)
    list(FILTER sources EXCLUDE REGEX "${arg_LEAVE}")
  endif()
  set_source_files_properties(${sources} PROPERTIES UNITY_GROUP ${name})
endfunction()

# What waits for people, and for files, not for the processor.
function(lattice_waits_for_people target)
  target_compile_options(${target} PRIVATE $<$<CONFIG:Release>:-O1>)
endfunction()
