package org.hollin.desk.console;

import java.nio.file.Path;
import java.util.List;
import java.util.Map;

import org.hollin.desk.app.BulletinService;
import org.hollin.desk.app.BulletinText;
import org.hollin.desk.app.DigestService;
import org.hollin.desk.app.DutyRoster;
import org.hollin.desk.app.MorningRound;
import org.hollin.desk.app.SirenDrill;
import org.hollin.desk.domain.Bulletin;
import org.hollin.desk.domain.BulletinException;
import org.hollin.desk.domain.Valley;
import org.hollin.desk.infra.DeskLocator;
import org.hollin.desk.infra.RoadBook;
import org.hollin.desk.infra.RosterStore;
import org.hollin.desk.infra.SirenRelay;
import org.hollin.desk.web.BulletinPage;
import org.hollin.desk.web.StatusPage;

/** The program of the early shift. */
public class DeskConsole {

    public static void main(String[] arguments) throws BulletinException {
        DeskLocator.offer(RoadBook.class, new RoadBook(Path.of("roads.txt")));
        DeskLocator.offer(RosterStore.class, new RosterStore(Path.of("wardens.txt")));
        DeskLocator.offer(DutyRoster.class, new DutyRoster());
        Valley eskdal = new Valley("ESK", "Eskdal", 1650);
        Valley varn = new Valley("VAR", "Varn", 1800);
        MorningRound round = new MorningRound();
        BulletinText text = new BulletinText(72);
        List<Bulletin> published = round.run(List.of(eskdal, varn));
        for (Bulletin bulletin : published) {
            System.out.println(text.render(bulletin));
        }
        System.out.print(new StatusPage().show(Map.of("ESK", eskdal)));
        if (!published.isEmpty()) {
            System.out.println(new BulletinPage(new BulletinService()).show(published.get(0).getValley()));
        }
        System.out.println(new DigestService().write(published, Path.of("digest.txt")) + " grave");
        if (arguments.length > 0) {
            SirenDrill drill = new SirenDrill();
            drill.setRelay(new SirenRelay(arguments[0], 7011));
            drill.run("ESK", "VAR");
        }
    }
}
