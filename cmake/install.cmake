# What `cmake --install` puts where: headers, libraries, the command, and what a teacher starts from.
include(GNUInstallDirs)
include(CMakePackageConfigHelpers)

set(LATTICE_DATA ${CMAKE_INSTALL_DATADIR}/open-lattice)
set(config_folder ${CMAKE_INSTALL_LIBDIR}/cmake/OpenLattice)

set_target_properties(lattice_core PROPERTIES EXPORT_NAME core)
set(libraries lattice_core)
set(packages core)
if(LATTICE_SUBJECTS)
  set_target_properties(lattice_subjects PROPERTIES EXPORT_NAME subjects)
  list(APPEND libraries lattice_subjects)
  list(APPEND packages subjects)
endif()
if(LATTICE_COMMAND)
  set_target_properties(lattice_showing PROPERTIES EXPORT_NAME showing)
  list(APPEND libraries lattice_showing)
  list(APPEND packages showing)
  install(TARGETS lattice RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
endif()
install(TARGETS ${libraries} EXPORT OpenLatticeTargets
        ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(EXPORT OpenLatticeTargets NAMESPACE lattice:: DESTINATION ${config_folder})
configure_package_config_file(cmake/OpenLatticeConfig.cmake.in OpenLatticeConfig.cmake
  INSTALL_DESTINATION ${config_folder} PATH_VARS LATTICE_DATA)
write_basic_package_version_file(OpenLatticeConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/OpenLatticeConfig.cmake
              ${CMAKE_CURRENT_BINARY_DIR}/OpenLatticeConfigVersion.cmake
        DESTINATION ${config_folder})

if(LATTICE_SUBJECTS)
  set(left_out "")
else()
  set(left_out PATTERN pictures EXCLUDE PATTERN graphs EXCLUDE PATTERN lattice.hpp EXCLUDE
               PATTERN files EXCLUDE PATTERN lessons EXCLUDE PATTERN show EXCLUDE)
endif()
install(DIRECTORY include/lattice DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}
        FILES_MATCHING PATTERN "*.hpp" ${left_out})
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/include/lattice/version.hpp
        DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/lattice)

install(DIRECTORY demo/lessons demo/sheets demo/data docs/schemas docs/remarks DESTINATION ${LATTICE_DATA})
install(FILES LICENSE README.md DESTINATION ${LATTICE_DATA})

# Where the prefix is from there, so that an installed tree may be moved.
file(RELATIVE_PATH lattice_prefix ${CMAKE_INSTALL_FULL_LIBDIR}/pkgconfig ${CMAKE_INSTALL_PREFIX})
foreach(package ${packages})
  configure_file(cmake/lattice-${package}.pc.in lattice-${package}.pc @ONLY)
  install(FILES ${CMAKE_CURRENT_BINARY_DIR}/lattice-${package}.pc
          DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)
endforeach()
