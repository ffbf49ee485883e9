package org.hollin.desk.web;

import org.hollin.desk.app.BulletinService;
import org.hollin.desk.app.BulletinText;
import org.hollin.desk.app.DutyRoster;
import org.hollin.desk.domain.Bulletin;
import org.hollin.desk.domain.BulletinException;
import org.hollin.desk.domain.Valley;
import org.hollin.desk.infra.DeskLocator;

/** The page that visitors of the web site see. */
public class BulletinPage {

    private final BulletinService bulletins;

    public BulletinPage(BulletinService bulletins) {
        this.bulletins = bulletins;
    }

    public String show(Valley valley) {
        DutyRoster roster = DeskLocator.find(DutyRoster.class);
        try {
            Bulletin bulletin = bulletins.latest(valley);
            String footer = "On duty: " + roster.onDuty(bulletin.getDay());
            return new BulletinText(80).render(bulletin) + footer;
        } catch (BulletinException problem) {
            return "The bulletin is being written.";
        }
    }
}
