#include "answers/selection_words.hpp"

namespace undershelf {

namespace {

constexpr const char* kinds =
    "picture, video, audio, document, mail, archive, database, program, text, link, other";

constexpr SelectionOption selection_table[] = {
    {"id", Values::many, "NUMBERS", "by number: 12,20-31; that of a folder is for what is in it as well"},
    {"ids-from", Values::many, "FILE",
     "numbers from a file, one a line, or from a list of ours as csv or jsonl; - is standard input"},
    {"under", Values::many, "FOLDER", "everything that is or was in this folder, however deep"},
    {"in", Values::many, "FOLDER", "what is shown in this folder itself, not deeper; / is the root"},
    {"name", Values::many, "WORD",
     "names with this word in them; with * or ? a pattern: *.jpg, act-?.txt; =a.txt is that name alone; with "
     "a / "
     "paths. Earlier names count as well"},
    {"containing", Values::many, "WORDS",
     "checked files that have all of these words in their text or title"},
    {"ext", Values::many, "EXTENSIONS", "jpg,png; . for files without one"},
    {"kind", Values::many, "KINDS", kinds},
    {"origin", Values::many, "ORIGINS", "live, deleted, former, unnamed"},
    {"grade", Values::many, "GRADES",
     "verified, likely, doubtful, partial, gone; likely+ for likely or better"},
    {"lost", Values::none, "", "deleted, former and unnamed files, and live ones in a recycle bin"},
    {"no-live", Values::none, "", "leave out live ones"},
    {"hide-copies", Values::none, "",
     "leave out lost ones that a live file, or a better lost one, holds byte for byte"},
    {"hidden", Values::none, "", "hidden ones: by their attribute or flag, or by a dot before their name"},
    {"helpers", Values::none, "",
     "also what only serves a bin or a viewer: $I..., .trashinfo, .DS_Store, Thumbs.db"},
    {"with-pairs", Values::none, "",
     "also what belongs to one of them by its name: a raw picture and its JPEG, a still and its film, a "
     "sidecar"},
    {"same-as", Values::one, "NUMBER", "this entry and all with the same content"},
    {"sha256-from", Values::one, "FILE", "files whose SHA-256 is in this list, as sha256sum writes them"},
    {"content", Values::many, "FORMATS",
     "formats that contents show, where they were checked: jpeg,zip; none for no format"},
    {"checked", Values::many, "STRENGTHS", "how strongly contents were checked: strong, fair, weak, none"},
    {"broken", Values::none, "", "files that a check found not to hold to their end"},
    {"mended", Values::none, "", "files in pieces that were laid out by their content, or by others'"},
    {"unrated", Values::none, "", "files that have no rating yet, or are not copied yet"},
    {"unread", Values::none, "", "files with bytes unreadable or not yet copied"},
    {"marked", Values::perhaps, "[NAME]", "those kept with `undershelf mark`, under this name or any"},
    {"exported", Values::none, "", "files that were exported, but for those that are laid out anew since"},
    {"not-exported", Values::none, "", "files that are left: not exported, or laid out anew since"},
    {"size", Values::one, "RANGE", "10k..2M, 500.., ..1G"},
    {"modified", Values::one, "DATES",
     "of change: 2024-03..2024-05, 2024.., ..today, yesterday, 7d.. for the last seven days; none"},
    {"created", Values::one, "DATES", "of creation"},
    {"accessed", Values::one, "DATES", "of the last access"},
    {"deleted", Values::one, "DATES", "of deletion, where they are known"},
    {"volume", Values::many, "NUMBERS", "volumes, by number; 0 for what is in none"},
    {"not-under", Values::many, "FOLDER", "leave out what is or was in this folder"},
    {"not-name", Values::many, "WORD", "leave out names that --name would take"},
    {"not-ext", Values::many, "EXTENSIONS", "leave out files with these extensions"},
    {"not-kind", Values::many, "KINDS", "leave out files of these kinds"},
    {"not-sha256-from", Values::one, "FILE", "leave out files whose SHA-256 is in this list: known ones"},
    {"match-case", Values::none, "", "match case in names and paths"},
};
constexpr SelectionOption narrowing_table[] = {
    {"kind", Values::many, "KINDS",
     "picture, video, audio, document, mail, archive, database, program, text, other"},
    {"ext", Values::many, "EXTENSIONS", "those that files of these extensions have: jpg,png"},
    {"content", Values::many, "FORMATS", "jpeg,zip"},
};

}  // namespace

std::span<const SelectionOption> selection_options() {
    return selection_table;
}
std::span<const SelectionOption> narrowing_options() {
    return narrowing_table;
}

}  // namespace undershelf
