package org.hollin.desk.app;

import org.hollin.desk.domain.Bulletin;
import org.hollin.desk.domain.BulletinException;

/** The second pair of eyes: compares a bulletin with the one before. */
public class ReviewService {

    private final BulletinService bulletins;

    public ReviewService(BulletinService bulletins) {
        this.bulletins = bulletins;
    }

    public boolean isSound(Bulletin bulletin) throws BulletinException {
        Bulletin before = bulletins.latest(bulletin.getValley());
        if (before == null) {
            return true;
        }
        int jump = Math.abs(bulletin.getLevel().degree() - before.getLevel().degree());
        return jump <= 2 || !bulletin.getHeadline().isBlank();
    }
}
