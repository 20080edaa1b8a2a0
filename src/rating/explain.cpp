#include "rating/explain.hpp"

#include <fmt/format.h>

#include "base/amounts.hpp"
#include "base/text.hpp"
#include "content/format.hpp"

namespace undershelf {

namespace {

std::string bytes(std::uint64_t n) {
    return n == 1 ? "1 byte" : grouped(n) + " bytes";
}

std::string owner(const Evidence& e, const std::function<std::string(std::int64_t)>& name_of) {
    return e.b == 0 ? "the file system itself, or somebody not listed"
                    : name_of(static_cast<std::int64_t>(e.b));
}

std::string with_text(std::string sentence, const Evidence& e) {
    return e.text.empty() ? sentence : fmt::format("{}: {}", sentence, e.text);
}

std::string about_layout(const Evidence& e) {
    switch (e.fact) {
        case Fact::live_chain:
            return "The layout comes from the file's live chain.";
        case Fact::chain_from_second_fat:
            return "Its chain is broken in the first FAT and was taken from the second one.";
        case Fact::chain_too_short:
            return fmt::format("Its chain ends after {}, before the file does.", bytes(e.a));
        case Fact::chain_too_long:
            return fmt::format("Its chain holds {}, more than the file needs.", bytes(e.a));
        case Fact::chain_crosses:
            return "Its chain runs into clusters of another file; one of the two is wrong.";
        case Fact::chain_leaves_volume:
            return fmt::format("Its chain leaves the volume after {} clusters.", e.a);
        case Fact::former_chain:
            return fmt::format("Its chain is in what is left of the former volume's FAT; it lies in {}.",
                               e.a == 1 ? "one run" : fmt::format("{} runs", e.a));
        case Fact::deleted_before:
            return "It had been deleted before its volume was formatted over.";
        case Fact::single_cluster:
            return "One cluster is enough for it, and its start is recorded: nothing is guessed.";
        case Fact::contiguous:
            return "Only its start is recorded; it is taken to lie in one run of clusters.";
        case Fact::next_free:
            return fmt::format(
                "Only its start is recorded; it is taken to step over clusters that were in use, in {} runs.",
                e.a);
        case Fact::layout_prior:
            return e.b == 0
                       ? "No live file of about its size shows whether such files lie in one run; most do."
                       : fmt::format("{} of {} live files of about its size on this volume lie in one run.",
                                     e.a, e.b);
        case Fact::kind_habit:
            return fmt::format("Of {} {} files here whose layout is known or contested, {} {} in one run.",
                               e.b, e.text, e.a, e.a == 1 ? "lies" : "lie");
        case Fact::chain_freed:
            return fmt::format(
                "It had a chain, as files in several runs have, and the chain is gone; {} of {} live files "
                "of "
                "about its size that have one lie in one run.",
                e.a, e.b);
        case Fact::steps_over_lost:
            return e.a == 1 ? "A lost file that was there when it was written is still in its way; it is "
                              "taken to go on after that."
                            : fmt::format(
                                  "{} lost files that were there when it was written are still in its "
                                  "way; it is taken to go on after these.",
                                  e.a);
        case Fact::step_prior:
            return e.b == 0
                       ? "No live file on this volume shows how well such a guess holds."
                       : fmt::format(
                             "Of {} live files on this volume that step over clusters in use, {} lie as they "
                             "would be guessed to.",
                             e.b, e.a);
        case Fact::start_in_use:
            return fmt::format("Its first cluster, {}, is in use now.", e.a);
        case Fact::start_outside:
            return fmt::format("Its start cluster, {}, lies outside the volume.", e.a);
        case Fact::no_start:
            return "Nothing tells where its content was.";
        case Fact::high_word_argued:
            return e.b > 1
                       ? fmt::format(
                             "The high half of its start cluster was cleared; cluster {} fits best among {} "
                             "that are possible.",
                             e.a, e.b)
                       : fmt::format(
                             "The high half of its start cluster was cleared on deletion; cluster {} fits, "
                             "and no other.",
                             e.a);
        case Fact::recorded_layout:
            return "Its layout is recorded.";
        case Fact::extents_known:
            return e.a > 1 ? fmt::format("Where it lies is recorded, in {} runs.", e.a)
                           : "Where it lies is recorded.";
        case Fact::live_content:
            return "It is live and reads as its driver would read it.";
        default:
            return {};
    }
}

std::string about_name(const Evidence& e) {
    switch (e.fact) {
        case Fact::long_name_checksum:
            return with_text("The long name is tied to the short one by its checksum", e);
        case Fact::first_letter_solved:
            return fmt::format(
                "The long name's checksum gives the short name's first letter, {}, which agrees with it "
                "(short name: {}).",
                static_cast<char>(e.a), e.text);
        case Fact::first_letter_argued:
            return fmt::format("The first letter, {}, is argued: {}.", static_cast<char>(e.a), e.text);
        case Fact::first_letter_lost:
            return "The first letter of its name is lost; it is shown as _.";
        case Fact::name_fragment:
            return with_text("Only a part of its long name is left", e);
        case Fact::short_alias:
            return "Only the short alias of its name is left; its extension may have been longer.";
        case Fact::zeroed_slots:
            return "Its slots were deleted with zeros instead of the usual mark; long and short name agree.";
        case Fact::stand_in_name:
            return "Its own name is lost; this one was made for it.";
        case Fact::old_name:
            return e.b & old_name_bit::order_unknown
                       ? fmt::format("It had the name {} as well; which of the two came later is not known.",
                                     e.text)
                       : fmt::format("It was called {} before it was renamed or moved.", e.text);
        default:
            return {};
    }
}

std::string about_content(const Evidence& e, const std::function<std::string(std::int64_t)>& name_of) {
    switch (e.fact) {
        case Fact::overwritten:
            return fmt::format("{} of it {} now to {}.", bytes(e.a), e.a == 1 ? "belongs" : "belong",
                               owner(e, name_of));
        case Fact::contested:
            return fmt::format("{} of it are claimed as well by {}; nothing tells which of the two has them.",
                               bytes(e.a), e.b ? owner(e, name_of) : "another lost file");
        case Fact::in_turns:
            return fmt::format(
                "The guess at {}, of the same age, runs into its start: the two may have been written in "
                "turns.",
                owner(e, name_of));
        case Fact::unreadable:
            return fmt::format("{} of it cannot be read.", bytes(e.a));
        case Fact::not_copied:
            return fmt::format(
                "{} of it {} not copied yet and not lost: go on with the capture, then scan the image again.",
                bytes(e.a), e.a == 1 ? "is" : "are");
        case Fact::beyond_source:
            return fmt::format("{} of it lie after the end of the source.", bytes(e.a));
        case Fact::reads_zero:
            return fmt::format(
                "{} of {} read as zeros, as discarded or overwritten space does{}.", grouped(e.a), bytes(e.b),
                e.text.empty() ? "" : "; of its volume's other lost files, " + e.text + " begin so");
        case Fact::not_reused:
            return "Nobody is known to have written over it since; somebody still may have" +
                   (e.a == 0 ? "."
                    : e.b    ? fmt::format(": later files, which are in pieces, needed {} % of the room that "
                                              "deleted files had left.",
                                           e.a)
                             : fmt::format(": lost files of later dates, whose places are guessed, make "
                                              "up {} % of the space that is free now.",
                                           e.a));
        case Fact::siblings:
            return fmt::format(
                "{} live files of its extension were looked at; all begin with {}, and this one {}.", e.a,
                e.text, e.b ? "does, too" : "does not");
        case Fact::ends_itself:
            return fmt::format(
                "Nothing names it: it was recognised by its content, at offset {} of the source, and its own "
                "structure tells where it ends.",
                grouped(e.a));
        case Fact::ends_in_zeros:
            return fmt::format(
                "Nothing names it: it was recognised by its content, at offset {} of the source; zeros "
                "follow "
                "after its end, as writers leave them there.",
                grouped(e.a));
        case Fact::cut_off:
            return fmt::format(
                "Nothing names it: it was recognised by its start, at offset {} of the source. Its end is "
                "not "
                "known; it is taken up to where {}.",
                grouped(e.a), e.text);
        case Fact::loose_end:
            return "Some writers put one more zero at the end of such files; the zeros after this one do "
                   "not tell.";
        case Fact::begins_within:
            return "It begins as in the middle of a line: its beginning may be lost.";
        case Fact::others_within:
            return "Contents that hold by themselves begin within it; it may be in several pieces.";
        case Fact::odd_head:
            return "Damaged only near its signature; probably written that way.";
        case Fact::date_inside:
            return fmt::format("Its dates stand in its content: {}.", e.text);
        case Fact::slack:
            return fmt::format(
                "{} of {} live files have zeros between their end and that of their sector; this one has {}.",
                e.b, e.a, e.text);
        case Fact::content_agrees:
            return with_text("Its first bytes agree with its extension", e);
        case Fact::content_contradicts:
            return with_text("Its first bytes contradict its extension", e);
        case Fact::content_fails:
            return fmt::format("From byte {} on {}.", e.a, e.text);
        case Fact::checked_whole:
            // A text has no structure that could tell its end.
            if (e.text == "text")
                return fmt::format("It is text up to byte {}: a {} check.", grouped(e.a),
                                   word(static_cast<Strength>(e.b)));
            return fmt::format(
                "It was read as {} to the end that its structure tells, at byte {}, and holds: a {} check.",
                e.text, grouped(e.a), word(static_cast<Strength>(e.b)));
        case Fact::mended:
            return fmt::format(
                "Its content says where it goes on: it lies in {}{}; {}.", counted(e.a, "piece", "pieces"),
                e.b > 1 ? fmt::format("; {} layouts held up to the last cluster, this one alone to the end",
                                      grouped(e.b))
                        : "",
                e.text);
        case Fact::dealt:
            return e.b > 0 ? fmt::format(
                                 "It was written in turns with other files, {} of these hold so: it lies in "
                                 "{}; {}.",
                                 grouped(e.b), counted(e.a, "piece", "pieces"), e.text)
                           : fmt::format(
                                 "Other files begin within it, so it was probably written in turns with "
                                 "them, in runs of one length. No "
                                 "check tells whether that is right: it lies in {}; {}.",
                                 counted(e.a, "piece", "pieces"), e.text);
        case Fact::left_over:
            return fmt::format(
                "It has what other files left of the stretch that it begins in: it lies in {}; {}.",
                counted(e.a, "piece", "pieces"), e.text);
        case Fact::foreign_start:
            return fmt::format(
                "{} is recorded to begin within it, and its first bytes are there; a fair check does not see "
                "that.",
                name_of(static_cast<std::int64_t>(e.a)));
        case Fact::ends_early:
            return fmt::format(
                "It holds, but ends at byte {}, and zeros follow: a shorter file may be in its place.",
                grouped(e.a));
        case Fact::volume_ends_early:
            return fmt::format(
                "{} of {} files of its volume hold and are shorter than recorded: its clusters may have "
                "begun elsewhere.",
                grouped(e.a), grouped(e.b));
        case Fact::checked_broken:
            return fmt::format("Read to its end, it holds up to byte {} and not beyond: {}.", grouped(e.a),
                               e.text);
        case Fact::title_inside:
            return fmt::format("Inside it calls itself “{}”.", e.text);
        case Fact::checked_cut:
            return fmt::format("It holds up to byte {}, but {}; it may have been cut off before it was lost.",
                               grouped(e.a), e.text);
        case Fact::text_throughout:
            return "It is a text, and every byte looked at is one of a text.";
        case Fact::empty_slot:
            return fmt::format(
                "It has no length: either it was empty{}, or it was deleted before its length was written.",
                e.b ? fmt::format(" (as {} of {} live files are)", e.a, e.b) : "");
        case Fact::name_taken_out:
            return "Its name was taken out of its record when it was deleted. It is left after the record's "
                   "used "
                   "part, and was given when the file was made.";
        case Fact::beyond_volume:
            return fmt::format("{} of it lie after the end of its volume, which was larger once.",
                               bytes(e.a));
        default:
            return {};
    }
}

}  // namespace

std::string explain(const Evidence& e, const std::function<std::string(std::int64_t)>& name_of) {
    for (auto sentence : {about_layout(e), about_name(e), about_content(e, name_of)}) {
        if (!sentence.empty()) return sentence;
    }
    switch (e.fact) {
        case Fact::folder_lost_self:
            return fmt::format(
                "Its first cluster, {}, holds no folder of its own any more: what was in it is "
                "lost or elsewhere.",
                e.a);
        case Fact::after_end_mark:
            return "Its slot is after the folder's end mark.";
        case Fact::in_slack:
            return "Its set is after the end of a live file, which has its folder's cluster now.";
        case Fact::bad_metadata:
            return fmt::format("Its metadata is doubtful: {}.", e.text);
        case Fact::set_checksum:
            return "The checksum over its entry set holds.";
        case Fact::compressed:
            return with_text("It is compressed", e);
        case Fact::encrypted:
            return "It is encrypted; what is exported is the ciphertext.";
        case Fact::torn_record:
            return "A sector of its record is torn.";
        default:
            return e.text.empty()
                       ? fmt::format("Unknown evidence ({}), from a newer version.", static_cast<int>(e.fact))
                       : e.text;
    }
}

}  // namespace undershelf
