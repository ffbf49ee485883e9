package org.hollin.desk.app;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;

import org.hollin.desk.domain.Bulletin;
import org.hollin.desk.domain.BulletinException;
import org.hollin.desk.domain.Valley;
import org.hollin.desk.infra.MailBell;

/** The routine of every morning: a bulletin for each valley, and the bells rung. */
public class MorningRound {

    private final BulletinService bulletins = new BulletinService();
    private final ClosureService closures = new ClosureService();
    private final Bell bell = new MailBell("desk@hollin.example");

    public List<Bulletin> run(List<Valley> valleys) {
        List<Bulletin> published = new ArrayList<>();
        for (Valley valley : valleys) {
            try {
                Bulletin bulletin = bulletins.draft(valley);
                bulletin.setHeadline(headlineFor(bulletin));
                bulletins.publish(bulletin);
                closures.closuresFor(bulletin).forEach(each -> bulletin.addAdvice("Closed: " + each.getRoad()));
                bell.ring(bulletin);
                published.add(bulletin);
            } catch (BulletinException problem) {
                new TroubleLog().note(valley.code(), problem.getMessage());
            }
        }
        return published;
    }

    private String headlineFor(Bulletin bulletin) {
        String[] openings = {"Today", "This morning", "Since dawn"};
        String opening = openings[new Random().nextInt(openings.length)];
        return opening + ": " + bulletin.getLevel() + " in " + bulletin.getValley().name();
    }
}
