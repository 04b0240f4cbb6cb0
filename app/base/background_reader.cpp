#include "app/base/background_reader.h"

#include <algorithm>

#include "store/sample_store.h"

namespace jacinth::app {

BackgroundReader::BackgroundReader(std::string path, QObject* parent)
    : QObject(parent), path_(std::move(path)), thread_([this] { run(); }) {}

BackgroundReader::~BackgroundReader() {
    {
        const std::lock_guard lock(mutex_);
        ending_ = true;
        waiting_.clear();
    }
    wake_.notify_all();
    thread_.join();
}

void BackgroundReader::ask(QObject* client, const char* name, Work work, bool patient) {
    {
        const std::lock_guard lock(mutex_);
        const auto same = std::find_if(waiting_.begin(), waiting_.end(),
                                       [&](const Request& r) { return r.key == client && r.name == name; });
        if (same != waiting_.end()) {
            same->work = std::move(work);
            return;
        }
        waiting_.push_back({client, client, name, std::move(work), patient});
    }
    wake_.notify_one();
}

bool BackgroundReader::idle() const {
    const std::lock_guard lock(mutex_);
    return waiting_.empty() && underWay_ == 0;
}

void BackgroundReader::run() {
    std::unique_ptr<Study> study;
    while (true) {
        std::unique_lock lock(mutex_);
        wake_.wait(lock, [this] { return ending_ || !waiting_.empty(); });
        if (ending_) return;
        auto next =
            std::find_if(waiting_.begin(), waiting_.end(), [](const Request& r) { return !r.patient; });
        if (next == waiting_.end()) next = waiting_.begin();
        Request request = std::move(*next);
        waiting_.erase(next);
        ++underWay_;
        lock.unlock();
        serve(request, study);
    }
}

void BackgroundReader::serve(Request& request, std::unique_ptr<Study>& study) {
    Deliver deliver;
    QString trouble;
    try {
        if (!study) {
            auto opened = Study::open(path_, true);
            if (opened) {
                study = std::move(*opened);
                study->samples().setCacheSize(cacheBytes_);
            } else {
                trouble = QString::fromStdString(opened.error().message);
            }
        }
        if (study) {
            study->refresh();
            deliver = request.work(*study);
        }
    } catch (const std::exception& e) {
        trouble = e.what();
        study.reset();  // whatever it had in memory is not to be relied on
    }
    QMetaObject::invokeMethod(
        this,
        [this, client = request.client, deliver = std::move(deliver), trouble] {
            {
                const std::lock_guard lock(mutex_);
                --underWay_;
            }
            if (client && deliver) deliver();
            if (!trouble.isEmpty()) emit failed(trouble);
        },
        Qt::QueuedConnection);
}

}  // namespace jacinth::app
