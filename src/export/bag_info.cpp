#include "export/bag_info.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/json_text.hpp"
#include "base/printable.hpp"
#include "base/timestamp.hpp"
#include "export/bag_files.hpp"

using nlohmann::ordered_json;

namespace undershelf {

namespace {

constexpr std::string_view date_label = "Bagging-Date", agent_label = "Bag-Software-Agent",
                           oxum_label = "Payload-Oxum", description_label = "External-Description",
                           shelf_label = "Undershelf-Shelf", round_label = "Undershelf-Round",
                           job_label = "Undershelf-Job";  // of a bag of one round, in earlier versions
/// Written anew with every round.
constexpr std::string_view our_labels[] = {date_label,  agent_label, oxum_label,
                                           shelf_label, round_label, job_label};

std::string as_text(const ordered_json& value) {
    return value.is_string() ? value.get<std::string>() : json_text(value);
}

std::optional<BagRound> round_in(const std::string& text) {
    const auto j = ordered_json_in(text);
    if (!j.is_object()) return std::nullopt;
    try {
        return BagRound{j.at("round").get<unsigned>(), j.at("ended").get<std::string>(),
                        j.at("files").get<std::uint64_t>(), j.at("bytes").get<std::uint64_t>(),
                        as_text(j.at("job"))};
    } catch (const ordered_json::exception&) {
        return std::nullopt;
    }
}

/// The job as the object that it is. By hand: the library's values take memory even while they go away, and a
/// round is to be finished with what there is.
std::string text_of(const BagRound& r) {
    auto out = fmt::format("{{\"round\":{},\"ended\":", r.number);
    append_json_text(out, r.ended);
    out += fmt::format(",\"files\":{},\"bytes\":{},\"job\":", r.files, r.bytes);
    if (r.job.starts_with('{') && ordered_json::accept(r.job)) {
        out += r.job;
    } else {
        append_json_text(out, r.job);
    }
    return out += '}';
}

class Reader {
  public:
    void take(const std::string& line) {
        // A line that begins with a blank goes on with the one before.
        const bool goes_on = line.starts_with(' ') || line.starts_with('\t');
        if (!goes_on) label_ = line.substr(0, line.find(':'));
        if (std::find(std::begin(our_labels), std::end(our_labels), label_) == std::end(our_labels)) {
            if (!line.empty()) out_.others.push_back(line);
            return;
        }
        const auto at = goes_on ? 0 : std::min(line.size(), label_.size() + 1);
        const auto from = std::min(line.size(), line.find_first_not_of(" \t", at));
        if (!goes_on) take_value(line.substr(from));
    }

    BagInfo done() {
        if (out_.rounds.empty() && !job_.empty())
            out_.rounds.push_back({1, date_, oxum_.files, oxum_.bytes, job_});
        return std::move(out_);
    }

  private:
    void take_value(const std::string& value) {
        if (label_ == shelf_label) out_.shelf = value;
        if (label_ == job_label) job_ = value;
        if (label_ == date_label) date_ = value;
        if (label_ == oxum_label) oxum_ = payload_oxum_in(value).value_or(PayloadOxum());
        if (label_ != round_label) return;
        if (auto round = round_in(value)) out_.rounds.push_back(std::move(*round));
    }

    BagInfo out_;
    std::string label_, job_, date_;
    PayloadOxum oxum_;
};

}  // namespace

std::optional<PayloadOxum> payload_oxum_in(const std::string& text) {
    PayloadOxum out;
    return bag_file::parse_two(text, out.bytes, out.files) ? std::optional(out) : std::nullopt;
}

BagInfo read_bag_info(const Folder& bag, const std::string& path) {
    Reader reader;
    bag_file::each_line(bag, path, [&](const std::string& line) { reader.take(line); });
    return reader.done();
}

std::string bag_info_text(const BagInfo& info, const PayloadOxum& oxum, const std::string& description) {
    std::string out;
    const auto add = [&](std::string_view label, const std::string& value) {
        out += fmt::format("{}: {}\n", label, value);
    };
    add(date_label, iso8601(now_utc()).substr(0, 10));
    add(agent_label, "undershelf");
    add(oxum_label, fmt::format("{}.{}", oxum.bytes, oxum.files));
    const bool described = std::any_of(info.others.begin(), info.others.end(), [](const std::string& line) {
        return line.starts_with(description_label);
    });
    if (!described) add(description_label, description);
    for (const auto& line : info.others) out += line + "\n";
    add(shelf_label, info.shelf);
    for (const auto& r : info.rounds) add(round_label, text_of(r));
    return out;
}

}  // namespace undershelf
