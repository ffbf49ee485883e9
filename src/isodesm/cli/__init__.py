import gc

gc.set_threshold(100_000, 20, 50)  # a run makes millions of objects and hardly a cycle: looking for some is a tenth of it
