package org.hollin.desk.app;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

import org.hollin.desk.domain.Bulletin;
import org.hollin.desk.domain.BulletinException;
import org.hollin.desk.domain.DangerLevel;

/** The morning's bulletins on one page, for the board at the station. */
public class DigestService {

    public int write(List<Bulletin> bulletins, Path page) throws BulletinException {
        int grave = 0;
        String text = "";
        for (Bulletin bulletin : bulletins) {
            if (bulletin.getHeadline().isBlank() || bulletin.getValley().code().isEmpty()) {
                continue;
            }
            if (bulletin.getLevel().atLeast(DangerLevel.HIGH)) {
                text = "! " + bulletin.getHeadline() + "\n" + text;
                grave++;
            } else if (bulletin.getLevel().atLeast(DangerLevel.CONSIDERABLE)) {
                text = text + "* " + bulletin.getHeadline() + "\n";
            } else {
                text = text + "  " + bulletin.getHeadline() + "\n";
            }
        }
        if (text.isEmpty()) {
            text = "nothing published\n";
        }
        try {
            Files.writeString(page, text);
        } catch (IOException problem) {
            throw new BulletinException("the digest can't be written", problem);
        }
        return grave;
    }
}
