# SPDX-License-Identifier: MIT
# ficklegate_bake(TARGET GATE [NAME name] [SET number=value...] [TABLES] [UNITS] [REPORT])
#
# Bakes a gate file whenever it, or a file that it includes, has changed, and builds the code into TARGET, which can include
# "name.h". NAME is the gate file's name without its ending, unless it is given. TABLES links the library as well.
#
#     find_package(ficklegate 0.1 REQUIRED)
#     add_executable(pump main.c)
#     ficklegate_bake(pump harbour.gate SET bilge_high=14)

function(ficklegate_bake target gate)
  cmake_parse_arguments(PARSE_ARGV 2 bake "TABLES;UNITS;REPORT" "NAME" "SET")
  if(bake_UNPARSED_ARGUMENTS)
    message(FATAL_ERROR "ficklegate_bake knows NAME, SET, TABLES, UNITS and REPORT, not ${bake_UNPARSED_ARGUMENTS}")
  endif()
  if(TARGET fickle)
    set(program $<TARGET_FILE:fickle>)
  else()
    find_program(FICKLEGATE_PROGRAM fickle HINTS "${CMAKE_CURRENT_FUNCTION_LIST_DIR}/../../../bin"
                                                 "${CMAKE_CURRENT_FUNCTION_LIST_DIR}/../../../../bin" REQUIRED)
    set(program "${FICKLEGATE_PROGRAM}")
  endif()
  get_filename_component(path "${gate}" ABSOLUTE)
  if(NOT bake_NAME)
    get_filename_component(bake_NAME "${gate}" NAME_WLE)
  endif()
  set(folder "${CMAKE_CURRENT_BINARY_DIR}/baked_for_${target}")
  file(MAKE_DIRECTORY "${folder}")
  set(words "${path}" -o "${folder}/${bake_NAME}" --depends "${folder}/${bake_NAME}.d" --quiet)
  foreach(option TABLES UNITS REPORT)
    if(bake_${option})
      string(TOLOWER ${option} word)
      list(APPEND words --${word})
    endif()
  endforeach()
  foreach(number ${bake_SET})
    list(APPEND words --set "${number}")
  endforeach()
  add_custom_command(OUTPUT "${folder}/${bake_NAME}.h" "${folder}/${bake_NAME}.c"
                     COMMAND "${program}" bake ${words}
                     DEPENDS "${path}" "${program}"
                     DEPFILE "${folder}/${bake_NAME}.d"
                     COMMENT "baking ${gate}" VERBATIM)
  target_sources(${target} PRIVATE "${folder}/${bake_NAME}.h" "${folder}/${bake_NAME}.c")
  target_include_directories(${target} PRIVATE "${folder}")
  if(bake_TABLES)
    target_link_libraries(${target} PRIVATE ficklegate::ficklegate)
  endif()
endfunction()
