#pragma once
// Groups of what a selection has, as people and programs are shown them.

#include <string>
#include <string_view>
#include <vector>

#include "shelf/groups.hpp"

namespace undershelf {

/// `kind`, `ext`, ... Throws Error(usage) for anything else.
GroupBy group_by_from(const std::string& word);
std::string_view word(GroupBy by);

struct Group {
    std::string name;  ///< `picture`, `Scripts/Summer play`, `2025-03`, `none`
    ShelfGroup counts;
    std::vector<std::string> opens;  ///< options that select it, beside those that were given
};

/// The name of the group that a file is in. `several`: there is more than one volume.
std::string group_name_of(const ShelfEntry& entry, GroupBy by, bool several);

/// In the order that people look for: the largest first, but for folders, dates, volumes and grades.
std::vector<Group> groups_to_show(const Shelf& shelf, const Selection& selection, GroupBy by,
                                  std::optional<unsigned> depth);

/// One line each, appended to `out`.
void append_group_csv_heading(std::string& out);
void append_group_csv(std::string& out, const Group& group, GroupBy by);
void append_group_json(std::string& out, const Group& group, GroupBy by);

}  // namespace undershelf
