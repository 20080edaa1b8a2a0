#include "source/mounts.hpp"

#include <fstream>
#include <sstream>

namespace undershelf {

namespace {
bool is_octal(char c) {
    return c >= '0' && c <= '7';
}

/// Blanks and the like stand as `\040` in the table.
std::string unescaped(const std::string& text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] == '\\' && i + 3 < text.size() && is_octal(text[i + 1]) && is_octal(text[i + 2]) &&
            is_octal(text[i + 3])) {
            out += static_cast<char>(std::stoi(text.substr(i + 1, 3), nullptr, 8));
            i += 3;
        } else {
            out += text[i];
        }
    }
    return out;
}
}  // namespace

std::string MountLine::option(const std::string& name) const {
    const auto all = "," + options + ",", before = "," + name + "=";
    const auto at = all.find(before);
    if (at == std::string::npos) return {};
    const auto value = at + before.size();
    return unescaped(all.substr(value, all.find(',', value) - value));
}

std::vector<MountLine> read_mounts(const std::string& mount_table) {
    std::ifstream in(mount_table);
    std::vector<MountLine> out;
    std::string line;
    while (std::getline(in, line)) {
        // Fields: id, parent id, device number, root, mount point, options ... - type, device, options.
        std::istringstream fields(line);
        std::string id, parent, root, word, more;
        MountLine m;
        if (!(fields >> id >> parent >> m.device >> root >> m.point >> m.options)) continue;
        while (fields >> word && word != "-") {
        }
        fields >> m.type >> m.from >> more;
        if (!more.empty()) m.options += "," + more;
        m.point = unescaped(m.point);
        m.from = unescaped(m.from);
        out.push_back(std::move(m));
    }
    return out;
}

}  // namespace undershelf
