"""Work on other machines: tasks go by Celery on Redis to workers that join and leave.

1. The server's dispatcher chooses whose turn it is (`turns`) and gives a task to a far slot
   (`place`), which writes it on the board and sends its number through Celery (`post`).
2. The board (`board`) has what is known of every task on its way: its state, which attempt counts,
   who does it until when, how far it is.
3. A worker (`worker`) takes a number, and with it a lease that it renews while it works. What it
   made goes where all machines reach it, what it says goes on the board, once.
4. A lease that runs out is a death: the task is sent again as another attempt, and what the first
   one may still say counts for nothing.

What is written on the board is signed (`signed`): nobody who reaches Redis alone makes a worker do
anything, or a server believe anything.
"""
