# Puts the files that pages are made of into the library, so that a page can be written anywhere.
set(page_folder ${CMAKE_CURRENT_LIST_DIR})
set(page_files ${CMAKE_CURRENT_BINARY_DIR}/page_files.cpp)

# embed(VARIABLE FILE…): the files of this folder in a variable of the template, each as a literal of its own:
# compilers need not take one of more than 65 536 bytes.
function(embed variable)
  set(text "")
  foreach(name ${ARGN})
    cmake_path(ABSOLUTE_PATH name BASE_DIRECTORY ${page_folder})
    file(READ ${name} part)
    # What is for readers of the source alone stays out of the pages: comments and indentation.
    if(name MATCHES "[.](js|css)$")
      string(REGEX REPLACE "/[*]([^*]|[*]+[^*/])*[*]+/" "" part "${part}")
      string(REGEX REPLACE "\n[ \t]*//[^\n]*" "" part "${part}")
      string(REGEX REPLACE "[ \t]*\n[ \t\n]*" "\n" part "${part}")
    endif()
    string(APPEND text "\n    R\"lattice(${part})lattice\",")
    set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${name})
  endforeach()
  set(${variable} "${text}" PARENT_SCOPE)
endfunction()

embed(paper_css paper.css)
embed(page_css page.css)
embed(page_html page.html)
embed(page_js numbers.js formulas.js compile.js recalculate.js tables.js patches.js why.js exercise.js walk.js
      curves.js flow.js columns.js network.js change.js predict.js compare.js steps.js plane.js address.js terms.js
      view.js print.js)
embed(start_js start.js)
embed(watch_css watch.css)
embed(watch_html watch.html)
embed(watch_js numbers.js curves.js flow.js columns.js watch.js)
embed(tour_css tour.css)
embed(tour_html tour.html)
configure_file(${page_folder}/files.cpp.in ${page_files} @ONLY)

# The same for the subjects that draw on pages (page_files.hpp), each in a file of its own.
foreach(subject ${subjects})
  set(around ${CMAKE_CURRENT_LIST_DIR}/../../${subject}/around)
  if(NOT EXISTS ${around}/page_files.hpp)
    continue()
  endif()
  foreach(file page.css page.js watch.css watch.js)
    string(REPLACE "." "_" variable ${file})
    set(${variable} "")
    if(EXISTS ${around}/${file})
      embed(${variable} ${around}/${file})
    endif()
  endforeach()
  configure_file(${page_folder}/subject_files.cpp.in
                 ${CMAKE_CURRENT_BINARY_DIR}/${subject}_page_files.cpp @ONLY)
  list(APPEND page_files ${CMAKE_CURRENT_BINARY_DIR}/${subject}_page_files.cpp)
endforeach()
