# How everything of ours is compiled: one interface target that the other targets link.

add_library(lattice_options INTERFACE)
target_compile_features(lattice_options INTERFACE cxx_std_20)
target_compile_options(lattice_options INTERFACE -Wall -Wextra -Wpedantic -Wshadow -Wconversion
                                                 -Wsign-conversion -Wnon-virtual-dtor)
# a·b + c is rounded twice, as it is on paper: a formula evaluated number by number then gives the
# bits that the kernels gave, and so do operations that are fused and those that are not.
target_compile_options(lattice_options INTERFACE -ffp-contract=off)
# Where files are compiled in one piece, what one file calls a variable is no shadow of what its
# neighbour calls a function.
set(in_one_piece $<BOOL:$<TARGET_PROPERTY:UNITY_BUILD>>)
target_compile_options(lattice_options INTERFACE
  $<${in_one_piece}:-Wno-shadow>
  $<$<AND:${in_one_piece},$<CXX_COMPILER_ID:GNU>>:-Wshadow=local>)
if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
  # GCC 12 warns of uninitialised values inside its own AVX-512 header, and of overlapping copies
  # inside its own string header (GCC bugs 105593 and 105651).
  target_compile_options(lattice_options INTERFACE -Wno-uninitialized -Wno-maybe-uninitialized
                                                   -Wno-restrict)
endif()
if(LATTICE_WARNINGS_AS_ERRORS)
  target_compile_options(lattice_options INTERFACE -Werror)
endif()
if(PROJECT_IS_TOP_LEVEL AND NOT LATTICE_PORTABLE)
  target_compile_options(lattice_options INTERFACE -march=native)
endif()
if(LATTICE_FUZZ)
  target_compile_options(lattice_options INTERFACE -fsanitize=fuzzer-no-link)
endif()
if(LATTICE_SANITIZE STREQUAL "thread")
  target_compile_options(lattice_options INTERFACE -fsanitize=thread -fno-omit-frame-pointer)
  target_link_options(lattice_options INTERFACE -fsanitize=thread)
elseif(LATTICE_SANITIZE)
  target_compile_options(lattice_options INTERFACE -fsanitize=address,undefined
                                                   -fno-sanitize-recover=all -fno-omit-frame-pointer)
  target_compile_definitions(lattice_options INTERFACE _GLIBCXX_ASSERTIONS)
  target_link_options(lattice_options INTERFACE -fsanitize=address,undefined)
endif()
