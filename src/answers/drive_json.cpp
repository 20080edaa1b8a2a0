#include "answers/drive_json.hpp"

#include "answers/volume_json.hpp"

namespace undershelf {

using Json = nlohmann::ordered_json;

Json json_of(const std::vector<DriveHealth::Mount>& mounts) {
    Json out = Json::array();
    for (const auto& m : mounts)
        out.push_back({{"point", m.point}, {"writable", m.writable}, {"discards", m.discards}});
    return out;
}

Json json_of(const DriveHealth& drive) {
    return {{"disk", drive.disk},
            {"model", or_null(drive.model)},
            {"serial", or_null(drive.serial)},
            {"rotating", or_null(drive.rotating)},
            {"takes_discards", or_null(drive.takes_discards)},
            {"errors", or_null(drive.errors)},
            {"mounts", json_of(drive.mounts)},
            {"timer_discards", drive.timer_discards}};
}

}  // namespace undershelf
