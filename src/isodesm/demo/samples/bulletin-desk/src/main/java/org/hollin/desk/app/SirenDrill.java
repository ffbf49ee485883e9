package org.hollin.desk.app;

import org.hollin.desk.infra.SirenRelay;

/** The drill on the first Saturday of a month: each siren once, as quietly as it can. */
public class SirenDrill {

    private SirenRelay relay;

    /** The relay is known only once the console has read its arguments. */
    public void setRelay(SirenRelay relay) {
        this.relay = relay;
    }

    public void run(String... valleys) {
        for (String valley : valleys) {
            relay.sound(valley, 1);
        }
    }
}
