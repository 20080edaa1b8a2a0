# Builds from scratch compile the files of a room several at a time: most of a file's time goes into the headers that it
# shares with the others. Files may still be built one at a time, as whoever works on them does.

option(UNDERSHELF_UNITY "Compile several files of a room at a time" OFF)

# These have names of their own that another file of their room has as well; a new one of that kind is told by the
# compiler, and gets another name or a line here.
set(compiled_alone
  src/answers/entry_named.cpp
  src/answers/id_list.cpp
  src/answers/known_sums_test.cpp
  src/capture/passes_test.cpp
  src/cli/check_command.cpp
  src/cli/demo_command.cpp
  src/cli/export_command.cpp
  src/cli/inspect_command.cpp
  src/cli/list_command.cpp
  src/cli/parse.cpp
  src/cli/peek_command.cpp
  src/cli/report_command.cpp
  src/cli/scan_command.cpp
  src/cli/sheet_command.cpp
  src/cli/show_command.cpp
  src/cli/sources_command.cpp
  src/cli/summary_command.cpp
  src/cli/tree_command.cpp
  src/cli/verify_command.cpp
  src/content/archive/gzip.cpp
  src/content/archive/inflate.cpp
  src/content/archive/tar.cpp
  src/content/archive/xz.cpp
  src/content/archive/zip.cpp
  src/content/archive/zstd.cpp
  src/content/document/ole_words.cpp
  src/content/document/pdf.cpp
  src/content/document/rtf.cpp
  src/content/media/asf.cpp
  src/content/media/flac.cpp
  src/content/media/iso_media.cpp
  src/content/media/matroska.cpp
  src/content/media/mpeg.cpp
  src/content/media/ogg.cpp
  src/content/other/woff2.cpp
  src/content/picture/gif.cpp
  src/content/picture/heif.cpp
  src/content/picture/ico.cpp
  src/content/picture/jpeg.cpp
  src/content/picture/png.cpp
  src/content/picture/psd.cpp
  src/content/picture/raw.cpp
  src/content/picture/tiff.cpp
  src/content/picture/webp.cpp
  src/content/text/text.cpp
  src/content/text/xml.cpp
  src/content/words_test.cpp
  src/exfat/loose.cpp
  src/exfat/reader_lost_test.cpp
  src/exfat/reader_test.cpp
  src/export/bag_tags.cpp
  src/fat/loose.cpp
  src/fat/table.cpp
  src/layout/lost_heads.cpp
  src/layout/mbr.cpp
  src/ntfs/index_leftovers.cpp
  src/ntfs/past_lives.cpp
  src/scan/containing.cpp
  src/scan/unnamed_contents.cpp
  src/shelf/writer_moved.cpp
  src/volume/relayout_test.cpp
  src/writing/folder.cpp
  src/writing/output_file.cpp
)
list(TRANSFORM compiled_alone PREPEND ${CMAKE_SOURCE_DIR}/)

# unify(TARGET): its files room by room, so many at a time.
function(unify target)
  if(NOT UNDERSHELF_UNITY)
    return()
  endif()
  set(at_a_time 8)
  get_target_property(sources ${target} SOURCES)
  list(SORT sources)
  set(last_room "")
  foreach(source ${sources})
    get_filename_component(source ${source} ABSOLUTE)
    get_filename_component(room ${source} DIRECTORY)
    if(source IN_LIST compiled_alone OR NOT source MATCHES "\\.cpp$")
      continue()
    endif()
    if(NOT room STREQUAL last_room)
      set(last_room ${room})
      set(number 0)
    endif()
    math(EXPR batch "${number} / ${at_a_time}")
    math(EXPR number "${number} + 1")
    string(MAKE_C_IDENTIFIER "${room}_${batch}" group)
    set_source_files_properties(${source} PROPERTIES UNITY_GROUP ${group})
  endforeach()
  set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_MODE GROUP)
endfunction()
