# Puts the files that pages are made of into the library, so that a page can be written anywhere.
set(page_folder ${CMAKE_CURRENT_LIST_DIR})
set(page_files ${CMAKE_CURRENT_BINARY_DIR}/page_files.cpp)

# embed(VARIABLE FILE…): the files in a variable of the template, each as a literal of its own:
# compilers need not take one of more than 65 536 bytes.
function(embed variable)
  set(text "")
  foreach(name ${ARGN})
    file(READ ${page_folder}/${name} part)
    string(APPEND text "\n    R\"lattice(${part})lattice\",")
    set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${page_folder}/${name})
  endforeach()
  set(${variable} "${text}" PARENT_SCOPE)
endfunction()

embed(paper_css paper.css)
embed(page_css page.css)
embed(page_html page.html)
embed(page_js numbers.js formulas.js tables.js patches.js graph.js why.js exercise.js walk.js curves.js depth.js print.js start.js)
embed(watch_css watch.css)
embed(watch_html watch.html)
embed(watch_js numbers.js curves.js depth.js watch.js)
embed(tour_css tour.css)
embed(tour_html tour.html)
configure_file(${page_folder}/files.cpp.in ${page_files} @ONLY)
