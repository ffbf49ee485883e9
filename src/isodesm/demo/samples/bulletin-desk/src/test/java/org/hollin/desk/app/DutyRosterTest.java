package org.hollin.desk.app;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.List;

import org.hollin.desk.infra.RosterStore;

/** Run with assertions on: `java -ea`. Slow and brittle, for the roster can't be had without a file. */
public class DutyRosterTest {

    public static void main(String[] arguments) throws Exception {
        Path file = Files.createTempFile("roster", ".txt");
        Files.write(file, List.of("Ilva", "Torben"));
        DutyRoster roster = new DutyRoster(new RosterStore(file));
        assert roster.onDuty(LocalDate.of(2031, 1, 2)).equals("Ilva");
        assert roster.onDuty(LocalDate.of(2031, 1, 3)).equals("Torben");
        System.out.println("DutyRosterTest passed");
    }
}
