#include "app/plot/trust_bands.h"

#include <algorithm>

#include "store/judgement.h"
#include "store/trust_marks.h"

namespace jacinth::app {
namespace {

constexpr double kTrustHeight = 4, kSignOffHeight = 4;

std::size_t placeOf(const std::vector<std::string>& scale, const std::string& grade) {
    return static_cast<std::size_t>(std::find(scale.begin(), scale.end(), grade) - scale.begin());
}

void fillTrust(QPainter& p, const QRectF& box, std::size_t place, std::size_t grades, const Theme& theme) {
    const QColor good = theme.traces[1], poor = theme.accent;
    p.setPen(Qt::NoPen);
    if (place == 0) {
        p.fillRect(box, good);
    } else if (place + 1 >= grades) {
        p.fillRect(box, faded(poor, 0.35));
        p.fillRect(box, QBrush(poor, Qt::DiagCrossPattern));
    } else if (place * 2 < grades) {
        p.fillRect(box, faded(good, 0.45));
    } else {
        p.fillRect(box, faded(poor, 0.2));
        p.fillRect(box, QBrush(poor, Qt::BDiagPattern));
    }
}

void fillSignOff(QPainter& p, const QRectF& box, std::size_t place, std::size_t grades, const Theme& theme) {
    const double share = grades > 1 ? static_cast<double>(place) / static_cast<double>(grades - 1) : 1;
    p.setPen(QPen(theme.second, 1));
    p.drawLine(box.bottomLeft(), box.bottomRight());
    const double height = kSignOffHeight * share;
    p.fillRect(QRectF(box.left(), box.bottom() - height, box.width(), height), theme.second);
}

const GradedStretch* stretchAt(const std::vector<GradedStretch>& stretches, Instant t) {
    for (const GradedStretch& s : stretches)
        if (s.range.contains(t)) return &s;
    return nullptr;
}

QString wordsOf(const GradedStretch& s) {
    return QString("%1 (%2)").arg(QString::fromStdString(s.grade), QString::fromStdString(s.from));
}

}  // namespace

bool drawTrustBands(QPainter& painter, Session& session, TagId tag, const QRect& pane, int bottom,
                    const std::function<double(Instant)>& xOf) {
    const Study& study = session.study();
    if (study.judgement().trustMarks(tag).empty() && study.judgement().fixes(tag).empty()) return false;
    const TrustSettings settings = trustSettingsOf(study);
    const TimeRange record = session.view().record();
    const auto boxOf = [&](TimeRange range, double lower, double height) {
        const double left = std::max<double>(pane.left(), xOf(range.from));
        const double right = std::min<double>(pane.right(), xOf(range.to));
        return QRectF(left, lower - height, std::max(right - left, left <= pane.right() ? 2.0 : 0.0), height);
    };
    const auto inSight = [&](TimeRange range) {
        return xOf(range.to) >= pane.left() && xOf(range.from) <= pane.right();
    };
    bool any = false;
    const auto& fixes = study.judgement().fixes(tag);
    const bool mended = session.view().which() == Which::Mended;
    for (const GradedStretch& s :
         trustOver(settings, study.judgement().trustMarks(tag), mended ? fixes : std::vector<Fix>{}, record))
        if (inSight(s.range) && settings.isTrust(s.grade)) {
            fillTrust(painter, boxOf(s.range, bottom - kSignOffHeight - 1, kTrustHeight),
                      placeOf(settings.trust, s.grade), settings.trust.size(), session.theme());
            any = true;
        }
    for (const GradedStretch& s : signOffOver(settings, study.judgement().trustMarks(tag), fixes, record))
        if (inSight(s.range) && settings.isSignOff(s.grade)) {
            fillSignOff(painter, boxOf(s.range, bottom, kSignOffHeight), placeOf(settings.signOff, s.grade),
                        settings.signOff.size(), session.theme());
            any = true;
        }
    return any;
}

QString trustWords(Session& session, TagId tag, Instant t) {
    const TimeRange moment{t, t + kNanosecond};
    const auto trust = trustOf(session.study(), tag, moment, session.view().which());
    const auto signOff = signOffOf(session.study(), tag, moment);
    QStringList out;
    if (const auto* s = stretchAt(trust, t)) out << wordsOf(*s);
    if (const auto* s = stretchAt(signOff, t)) out << wordsOf(*s);
    return out.join(" · ");
}

}  // namespace jacinth::app
