package org.hollin.desk.app;

import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;

import org.hollin.desk.domain.Bulletin;
import org.hollin.desk.domain.Closure;
import org.hollin.desk.domain.DangerLevel;
import org.hollin.desk.infra.DeskLocator;
import org.hollin.desk.infra.RoadBook;

/** Shuts roads when the danger asks for it. */
public class ClosureService {

    private final RoadBook roads = DeskLocator.find(RoadBook.class);

    public List<Closure> closuresFor(Bulletin bulletin) {
        List<Closure> closures = new ArrayList<>();
        if (!bulletin.getLevel().atLeast(DangerLevel.CONSIDERABLE)) {
            return closures;
        }
        for (String road : roads.roadsOf(bulletin.getValley().code())) {
            closures.add(new Closure(road, LocalDate.now()));
        }
        return closures;
    }
}
