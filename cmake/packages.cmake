# SPDX-License-Identifier: MIT
# Debian packages (cpack -G DEB), from a build with -DBUILD_SHARED_LIBS=ON and -DCMAKE_INSTALL_PREFIX=/usr: the tool, the libraries that run it,
# what is needed to build with them, and the pages. And the sources as an archive (cpack --config CPackSourceConfig.cmake).
set(abi ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR})
set(CPACK_PACKAGE_NAME ficklegate)
set(CPACK_PACKAGE_VENDOR "Fickle Gate")
set(CPACK_PACKAGE_CONTACT "Fickle Gate <ficklegate@example.org>")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "rules over sensor readings, tested before a board does it")
set(CPACK_STRIP_FILES ON)
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_COMPONENTS_ALL tool runtime development documentation python)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_ENABLE_COMPONENT_DEPENDS OFF)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS_PRIVATE_DIRS ${PROJECT_BINARY_DIR})
set(CPACK_INSTALL_DEFAULT_DIRECTORY_PERMISSIONS OWNER_READ OWNER_WRITE OWNER_EXECUTE GROUP_READ GROUP_EXECUTE WORLD_READ
                                                WORLD_EXECUTE)

set(version "(= ${PROJECT_VERSION})")
macro(ficklegate_package component name section depends summary text)
  string(TOUPPER ${component} upper)
  set(CPACK_DEBIAN_${upper}_PACKAGE_NAME ${name})
  set(CPACK_DEBIAN_${upper}_PACKAGE_SECTION ${section})
  set(CPACK_DEBIAN_${upper}_PACKAGE_DEPENDS "${depends}")
  set(CPACK_COMPONENT_${upper}_DESCRIPTION "${summary}\n${text}")
  # Each package says its terms and what changed.
  install(FILES ${PROJECT_BINARY_DIR}/copyright DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/${name} COMPONENT ${component}
          EXCLUDE_FROM_ALL)
  install(FILES ${PROJECT_BINARY_DIR}/changelog.gz DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/${name}
          COMPONENT ${component} EXCLUDE_FROM_ALL)
endmacro()
ficklegate_package(tool fickle utils "libficklegate${abi} ${version}" "tool for rules over sensor readings"
  "Checks a gate file, plays recorded readings through it with a reason\n for each change, finds limits from labelled readings, and makes C of it\n for a board.")
ficklegate_package(runtime libficklegate${abi} libs "" "rules over sensor readings: libraries"
  "The engine that steps a gate, the compiler of gate files, and what\n plays recordings.")
ficklegate_package(development libficklegate-dev libdevel "libficklegate${abi} ${version}" "rules over sensor readings: development"
  "Headers, pkg-config files and a CMake package.")
ficklegate_package(documentation ficklegate-doc doc "" "rules over sensor readings: pages and examples"
  "A tutorial, the language, boards, safety, and four examples.")
ficklegate_package(python python3-ficklegate python "python3:any, python3-cffi, libficklegate${abi} ${version}" "rules over sensor readings: Python module"
  "Feeds and steps a gate, asks its answers with their reasons, plays\n recordings and runs trials, by the same engine.")
set(CPACK_DEBIAN_TOOL_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_RUNTIME_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_TOOL_PACKAGE_SUGGESTS "ficklegate-doc, gnuplot-nox")
file(WRITE ${PROJECT_BINARY_DIR}/shlibs "libficklegate ${abi} libficklegate${abi} ${version}\nlibficklegate-workshop ${abi} libficklegate${abi} ${version}\n")
set(CPACK_DEBIAN_RUNTIME_PACKAGE_CONTROL_EXTRA ${PROJECT_SOURCE_DIR}/cmake/triggers ${PROJECT_BINARY_DIR}/shlibs)
set(CPACK_DEBIAN_DOCUMENTATION_PACKAGE_ARCHITECTURE all)
set(CPACK_DEBIAN_PYTHON_PACKAGE_ARCHITECTURE all)
# Python compiles a module as it is installed, and what it made goes with the package.
set(CPACK_DEBIAN_PYTHON_PACKAGE_CONTROL_EXTRA ${PROJECT_SOURCE_DIR}/cmake/python/postinst ${PROJECT_SOURCE_DIR}/cmake/python/prerm)
set(CPACK_DEBIAN_PYTHON_PACKAGE_CONTROL_STRICT_PERMISSION TRUE)
install(DIRECTORY python/ficklegate DESTINATION lib/python3/dist-packages COMPONENT python EXCLUDE_FROM_ALL
        PATTERN "__pycache__" EXCLUDE)

# ---- terms, changes, pages ----

file(READ LICENSE terms)
string(REGEX REPLACE "\n\n" "\n .\n" terms "${terms}")
string(REGEX REPLACE "\n([^ ])" "\n \\1" terms "${terms}")
file(WRITE ${PROJECT_BINARY_DIR}/copyright "Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/
Upstream-Name: Fickle Gate

Files: *
Copyright: The Fickle Gate authors
License: MIT

License: MIT
 ${terms}")
find_program(GZIP gzip)
if(GZIP)
  file(WRITE ${PROJECT_BINARY_DIR}/changelog "ficklegate (${PROJECT_VERSION}) unstable; urgency=medium

  * See CHANGELOG.md.

 -- ${CPACK_PACKAGE_CONTACT}  Sun, 29 Nov 2026 00:00:00 +0000
")
  execute_process(COMMAND ${GZIP} -9nf ${PROJECT_BINARY_DIR}/changelog)
endif()
install(FILES README.md CHANGELOG.md DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/ficklegate-doc COMPONENT documentation
        EXCLUDE_FROM_ALL)
install(DIRECTORY docs examples DESTINATION ${CMAKE_INSTALL_DATADIR}/doc/ficklegate-doc COMPONENT documentation
        EXCLUDE_FROM_ALL PATTERN "Doxyfile.in" EXCLUDE PATTERN "CMakeLists.txt" EXCLUDE PATTERN "*.sh" EXCLUDE)

set(CPACK_SOURCE_GENERATOR TXZ)
set(CPACK_SOURCE_PACKAGE_FILE_NAME ficklegate-${PROJECT_VERSION})
set(CPACK_SOURCE_IGNORE_FILES "/build/;/\\\\.git/;/node_modules/;\\\\.pyc$")
include(CPack)
