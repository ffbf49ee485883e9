package org.hollin.desk.app;

import java.time.LocalDate;
import java.util.List;

import org.hollin.desk.infra.DeskLocator;
import org.hollin.desk.infra.RosterStore;

/** Who answers the telephone today. */
public class DutyRoster {

    private final RosterStore store;

    public DutyRoster() {
        this(DeskLocator.find(RosterStore.class));
    }

    public DutyRoster(RosterStore store) {
        this.store = store;
    }

    public String onDuty(LocalDate day) {
        List<String> wardens = store.wardens();
        return wardens.get(day.getDayOfYear() % wardens.size());
    }
}
