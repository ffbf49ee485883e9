package org.hollin.desk.app;

import java.util.List;

import org.hollin.desk.domain.AdviceBook;
import org.hollin.desk.domain.Bulletin;
import org.hollin.desk.domain.BulletinException;
import org.hollin.desk.domain.DangerLevel;
import org.hollin.desk.domain.DangerScale;
import org.hollin.desk.domain.SnowReading;
import org.hollin.desk.domain.Valley;
import org.hollin.desk.infra.BulletinArchive;
import org.hollin.desk.infra.FileGaugeFeed;
import org.hollin.desk.infra.SirenRelay;

/** Writes the bulletin of a valley and sends it out. */
public class BulletinService {

    private final DangerScale scale = new DangerScale();
    private final FileGaugeFeed feed = new FileGaugeFeed("readings");
    private final ReviewService review;

    public BulletinService() {
        this.review = new ReviewService(this);
    }

    public Bulletin draft(Valley valley) throws BulletinException {
        List<SnowReading> readings = feed.readingsOf(valley);
        if (readings.isEmpty()) {
            throw new BulletinException("no readings for " + valley.name());
        }
        Bulletin bulletin = new Bulletin(valley, java.time.LocalDate.now(), scale.assess(readings));
        bulletin.addAdvice(AdviceBook.lineFor(bulletin.getLevel()));
        return bulletin;
    }

    public void publish(Bulletin bulletin) throws BulletinException {
        if (!review.isSound(bulletin)) {
            throw new BulletinException("review turned down " + bulletin.getValley().code());
        }
        BulletinArchive.getInstance().store(bulletin);
        if (bulletin.getLevel().atLeast(DangerLevel.HIGH)) {
            SirenRelay relay = new SirenRelay("siren.valley", 7011);
            relay.sound(bulletin.getValley().code(), bulletin.getLevel().degree());
        }
    }

    public Bulletin latest(Valley valley) throws BulletinException {
        return BulletinArchive.getInstance().latest(valley.code());
    }
}
