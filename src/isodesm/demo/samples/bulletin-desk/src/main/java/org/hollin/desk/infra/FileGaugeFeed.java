package org.hollin.desk.infra;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.List;

import org.hollin.desk.app.GaugeFeed;
import org.hollin.desk.domain.BulletinException;
import org.hollin.desk.domain.SnowReading;
import org.hollin.desk.domain.Valley;

/** Reads what the gauges dropped into a folder. */
public class FileGaugeFeed implements GaugeFeed {

    private final Path folder;

    public FileGaugeFeed(String folder) {
        this.folder = Path.of(folder);
    }

    @Override
    public List<SnowReading> readingsOf(Valley valley) throws BulletinException {
        List<SnowReading> readings = new ArrayList<>();
        try {
            for (String line : Files.readAllLines(folder.resolve(valley.code() + ".csv"))) {
                readings.add(parse(line, valley));
            }
        } catch (IOException problem) {
            throw new BulletinException("gauges of " + valley.name() + " can't be read", problem);
        }
        return readings;
    }

    private SnowReading parse(String line, Valley valley) {
        String[] cells = line.split(",");
        return new SnowReading(cells[0], valley.code(), LocalDate.parse(cells[1]), Integer.parseInt(cells[2]),
                Integer.parseInt(cells[3]), Double.parseDouble(cells[4]));
    }
}
