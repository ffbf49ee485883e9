package org.hollin.desk.console;

import java.nio.file.Path;
import java.util.List;

import org.hollin.desk.app.BulletinText;
import org.hollin.desk.app.DutyRoster;
import org.hollin.desk.app.MorningRound;
import org.hollin.desk.domain.Bulletin;
import org.hollin.desk.domain.Valley;
import org.hollin.desk.infra.DeskLocator;
import org.hollin.desk.infra.RoadBook;
import org.hollin.desk.infra.RosterStore;

/** The program of the early shift. */
public class DeskConsole {

    public static void main(String[] arguments) {
        DeskLocator.offer(RoadBook.class, new RoadBook(Path.of("roads.txt")));
        DeskLocator.offer(RosterStore.class, new RosterStore(Path.of("wardens.txt")));
        DeskLocator.offer(DutyRoster.class, new DutyRoster());
        MorningRound round = new MorningRound();
        BulletinText text = new BulletinText(72);
        for (Bulletin bulletin : round.run(List.of(new Valley("ESK", "Eskdal", 1650), new Valley("VAR", "Varn", 1800)))) {
            System.out.println(text.render(bulletin));
        }
    }
}
