package org.hollin.desk.infra;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.util.HashMap;
import java.util.Map;

import org.hollin.desk.domain.Bulletin;
import org.hollin.desk.domain.BulletinException;

/** All bulletins that were ever published; there is one archive for the whole program. */
public class BulletinArchive {

    private static BulletinArchive instance;

    private final Map<String, Bulletin> latest = new HashMap<>();
    private Path folder = Path.of("archive");

    private BulletinArchive() {
    }

    public static synchronized BulletinArchive getInstance() {
        if (instance == null) {
            instance = new BulletinArchive();
        }
        return instance;
    }

    public void moveTo(Path other) {
        folder = other;
    }

    public void store(Bulletin bulletin) throws BulletinException {
        String code = bulletin.getValley().code();
        LocalDate day = bulletin.getDay();
        try {
            Files.createDirectories(folder);
            Files.writeString(folder.resolve(code + "-" + day + ".txt"), bulletin.getHeadline());
        } catch (IOException problem) {
            throw new BulletinException("can't archive " + code, problem);
        }
        latest.put(code, bulletin);
    }

    public Bulletin latest(String code) {
        return latest.get(code);
    }
}
